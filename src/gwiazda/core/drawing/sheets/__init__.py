"""Sheets to print at true size: what is on each page, in mm. The desktop draws them as PDF or SVG."""

from gwiazda.core.drawing.sheets.kinds import KINDS, pages_of
from gwiazda.core.drawing.sheets.page import PAPERS, Page, Paper

__all__ = ["KINDS", "PAPERS", "Page", "Paper", "pages_of"]
