"""Words of the user's in files of other forms: each form has one way to put them in, here."""

from __future__ import annotations

import re
from html import escape

_NOT_XML = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def in_xml(text: str) -> str:
    """Text between tags, or in quoted attributes, of XML and SVG."""
    # Not of xml.sax: that loads all of urllib, and the first picture waits for it.
    return escape(_NOT_XML.sub(" ", text), quote=False).replace('"', "&quot;").replace("'", "&apos;")


def well_formed(svg: bytes) -> bytes:
    """An SVG that a generator wrote, without characters that XML knows no way to write."""
    return _NOT_XML.sub(" ", svg.decode("utf-8", "replace")).encode()


def in_c_comment(text: str) -> str:
    """Text inside ``/* */``: on one line, in ASCII where it can be, and nothing in it ends or opens a comment."""
    line = " ".join(text.replace("…", "...").split())
    line = "".join(c if c.isprintable() else " " for c in line)
    line = re.sub(r"\*(?=/)|/(?=\*)", lambda m: m.group() + " ", line)
    return line.replace("??", "? ?").replace("\\", "/")


def in_markdown(text: str) -> str:
    """Text in a paragraph or a cell of a table in Markdown."""
    line = " ".join(text.split())
    return re.sub(r"([\\`*_{}\[\]<>|#])", r"\\\1", line)
