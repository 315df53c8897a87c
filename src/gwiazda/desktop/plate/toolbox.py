"""The tools there are: what their buttons say, and where each is loaded from at its first use."""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate
    from gwiazda.desktop.plate.tools import Tool


class ToolEntry(NamedTuple):
    """``module`` is within ``gwiazda.desktop.plate``."""

    id: str
    name: str
    key: str
    hint: str
    module: str
    kind: str


TOOLBOX: tuple[ToolEntry, ...] = (
    ToolEntry("pick", "Pick and move", "S", "Click to pick, drag to move, drag over nothing to pick many; Shift adds", "tools", "PickTool"),
    ToolEntry("section", "Section", "B", "Drag a rectangle over the part that is lit as one room", "tools", "SectionTool"),
    ToolEntry("window", "Window", "W", "Click on a section to open a window in its wall", "tools", "WindowTool"),
    ToolEntry("row", "Row of windows", "R", "Drag along a section; Up and Down change the count while you drag", "tools", "RowTool"),
    ToolEntry("lamp", "Lamp inside a section", "L", "Click inside a section to put a lamp behind its windows", "tools", "LampTool"),
    ToolEntry("point", "Lamp that is seen itself", "P", "Click where a navigation light or a flood is to sit, on or off the hull", "tools", "PointLightTool"),
    ToolEntry("carrier", "What holds the lamps", "Shift+C", "Click in a section for a carrier of its lamps, drag to cut it to size; drag an edge of one to change it", "carrier_tool", "CarrierTool"),
    ToolEntry("calibrate", "Calibrate the drawing", "K", "Drag along something whose length you know, then type it: 94 mm on the kit or 18.8 m full size", "measure_tools", "CalibrateTool"),
    ToolEntry("level", "Level the drawing", "H", "Drag along a line that should be level; the drawing turns", "measure_tools", "LevelTool"),
    ToolEntry("square", "Square up a photo", "Q", "Click the four corners of something rectangular, clockwise from its upper left, then type its size: 120 x 40 mm", "square_tool", "SquareTool"),
    ToolEntry("crop", "Crop the drawing", "C", "Drag over the part of the drawing to keep; a click shows all of it again", "drawing_tools", "CropTool"),
    ToolEntry("align", "Align two views", "J", "Click one point of the kit in one view, then the same point in another: its drawing moves there", "drawing_tools", "AlignTool"),
    ToolEntry("wand", "Wand", "D", "Click between the lines of a clean drawing; Enter makes a section of the outline found, Space an opening, F a mast or other fitting", "drawing_tools", "WandTool"),
    ToolEntry("trace", "Trace an outline", "T", "Click the corners of a section; Ctrl sets a point an arc runs through, a number the length of a straight run, M mirrors half an outline, Enter closes, F makes a mast or other fitting of it, Backspace takes one back", "outline_tools", "TraceTool"),
    ToolEntry("cut", "Opening of any shape", "X", "Click the corners of a window or lens on its section, arcs with Ctrl; Enter closes", "outline_tools", "CutTool"),
    ToolEntry("curve", "Row along a curve", "U", "Click along the curve, arcs with Ctrl; Up and Down change the count, Enter places the openings", "outline_tools", "CurveTool"),
    ToolEntry("brush", "Which windows are lit", "O", "Brush over windows to light them; Shift leaves them dark, Ctrl dims them", "measure_tools", "BrushTool"),
    ToolEntry("eye", "Eye at a window", "E", "Pick an opening seen edge-on, then drag the eye outside: the wedge shows what it sees of the inside", "measure_tools", "EyeTool"),
    ToolEntry("throw", "Throw of a lamp", "A", "Pick a lamp, then drag: it looks at the pointer, and the faces it lights past the lips glow", "throw_tool", "ThrowTool"),
    ToolEntry("dot", "Dot of light by fibre", "I", "Click on the skin for a dot, drag for a row; Up and Down change the count while you drag", "fibre_tools", "DotTool"),
    ToolEntry("panel", "Panel of dots", "Y", "Drag over the place of a panel’s face; its dots come from a picture of it", "fibre_tools", "PanelTool"),
    ToolEntry("passage", "Passage for wires", "Shift+P", "Drag from one section into another: a passage leads from the one to the other; into nothing: out of the kit", "loom_tools", "PassageTool"),
    ToolEntry("hub", "Hub where leads are joined", "Shift+H", "Click inside a section: leads that come by are joined there, and one of each net goes on", "loom_tools", "HubTool"),
    ToolEntry("way", "Lead a fibre or a wire", "Z", "Pick dots or lamps, then click where they are to run; drag a place to move it, Backspace takes the last one out", "way_tool", "WayTool"),
)  # fmt: skip
BY_ID = {e.id: e for e in TOOLBOX}


class Tools(dict[str, "Tool"]):
    """The plate's tools by id, each made when it is first asked for."""

    def __init__(self, plate: Plate) -> None:
        super().__init__()
        self._plate = plate

    def __missing__(self, tool_id: str) -> Tool:
        entry = BY_ID[tool_id]
        module = importlib.import_module(f"gwiazda.desktop.plate.{entry.module}")
        tool: Tool = getattr(module, entry.kind)(self._plate)
        self[tool_id] = tool
        return tool
