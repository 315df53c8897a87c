"""Into how many cells a section is cut."""

from __future__ import annotations

CELLS, QUICK_CELLS = 420, 150  # worst window within 3 % in most boxes; within some 10 %, for a first look
