"""One page of a PDF as PNG, worked out in a process of its own so that a hostile file can't take the window along.

``python -m gwiazda.desktop.shell.pdf_page FILE OUT.png [PAGE]`` prints the picture's mm per px, or one sentence on standard
error.
"""

from __future__ import annotations

import resource
import sys
from pathlib import Path

DPI, MOST_PX = 200.0, 4096
MEMORY_BYTES, CPU_SECONDS = 2 * 2**30, 20


def main(arguments: list[str]) -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (CPU_SECONDS, CPU_SECONDS))
    import pypdfium2

    path, out = Path(arguments[0]), Path(arguments[1])
    number = int(arguments[2]) if len(arguments) > 2 else 1
    try:
        document = pypdfium2.PdfDocument(str(path))
        if not 1 <= number <= len(document):
            print(f"page {number} of {len(document)}", file=sys.stderr)
            return 2
        page = document[number - 1]
        width_pt, height_pt = page.get_size()
        if not (0 < width_pt < 20_000 and 0 < height_pt < 20_000):
            print("a page of impossible size", file=sys.stderr)
            return 2
        scale = min(DPI / 72.0, MOST_PX / max(width_pt, height_pt))
        bitmap = page.render(scale=scale)
        data = bitmap.to_numpy()
    except (pypdfium2.PdfiumError, MemoryError, ValueError) as error:
        print(f"no page could be read ({error})", file=sys.stderr)
        return 2
    from PySide6.QtGui import QImage

    height, width, planes = data.shape
    formats = {1: QImage.Format.Format_Grayscale8, 3: QImage.Format.Format_BGR888, 4: QImage.Format.Format_RGB32}
    image = QImage(data.tobytes(), width, height, width * planes, formats[planes])
    image.save(str(out), "PNG")  # type: ignore[call-overload]
    print(25.4 / 72.0 / scale)
    return 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
