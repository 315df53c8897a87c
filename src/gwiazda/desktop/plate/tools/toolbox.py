"""The tools there are: what their buttons say, and where each is loaded from at its first use."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate
    from gwiazda.desktop.plate.tools.tool import Tool


Loaded = dict[str, "type[Tool]"]


class ToolEntry(NamedTuple):
    """``load`` gives the tools of a module, by id, at their first use."""

    id: str
    name: str
    key: str
    hint: str
    load: Callable[[], Loaded]


def _plain_tools() -> Loaded:
    from gwiazda.desktop.plate.tools.tool import LampTool, PickTool, PointLightTool, RowTool, SectionTool, WindowTool

    return {
        "pick": PickTool,
        "section": SectionTool,
        "window": WindowTool,
        "row": RowTool,
        "lamp": LampTool,
        "point": PointLightTool,
    }


def _carrier_tool() -> Loaded:
    from gwiazda.desktop.plate.tools.carrier_tool import CarrierTool

    return {"carrier": CarrierTool}


def _light_tool() -> Loaded:
    from gwiazda.desktop.plate.tools.light_tool import LightTool

    return {"light": LightTool}


def _measure_tools() -> Loaded:
    from gwiazda.desktop.plate.tools.measure_tools import BrushTool, CalibrateTool, EyeTool, LevelTool

    return {"calibrate": CalibrateTool, "level": LevelTool, "brush": BrushTool, "eye": EyeTool}


def _square_tool() -> Loaded:
    from gwiazda.desktop.plate.tools.square_tool import SquareTool

    return {"square": SquareTool}


def _drawing_tools() -> Loaded:
    from gwiazda.desktop.plate.tools.drawing_tools import AlignTool, CropTool, WandTool

    return {"crop": CropTool, "align": AlignTool, "wand": WandTool}


def _outline_tools() -> Loaded:
    from gwiazda.desktop.plate.tools.outline_tools import CurveTool, CutTool, TraceTool

    return {"trace": TraceTool, "cut": CutTool, "curve": CurveTool}


def _throw_tool() -> Loaded:
    from gwiazda.desktop.plate.tools.throw_tool import ThrowTool

    return {"throw": ThrowTool}


def _fibre_tools() -> Loaded:
    from gwiazda.desktop.plate.tools.fibre_tools import DotTool, PanelTool

    return {"dot": DotTool, "panel": PanelTool}


def _loom_tools() -> Loaded:
    from gwiazda.desktop.plate.tools.loom_tools import HubTool, PassageTool, StandTool

    return {"passage": PassageTool, "stand": StandTool, "hub": HubTool}


def _way_tool() -> Loaded:
    from gwiazda.desktop.plate.tools.way_tool import WayTool

    return {"way": WayTool}


TOOLBOX: tuple[ToolEntry, ...] = (
    ToolEntry("pick", "Pick and move", "S", "Click to pick, drag to move, drag over nothing to pick many; Shift adds", _plain_tools),
    ToolEntry("section", "Section", "B", "Drag a rectangle over the part that is lit as one room", _plain_tools),
    ToolEntry("window", "Window", "W", "Click on a section to open a window in its wall", _plain_tools),
    ToolEntry("row", "Row of windows", "R", "Drag along a section; Up and Down change the count while you drag", _plain_tools),
    ToolEntry("light", "Light", "Shift+L", "Choose what is to glow by name, then click where it sits; of a pair its twin comes along", _light_tool),
    ToolEntry("lamp", "Lamp inside a section", "L", "Click inside a section to put a lamp behind its windows", _plain_tools),
    ToolEntry("point", "Lamp that is seen itself", "P", "Click where a navigation light or a flood is to sit, on or off the hull", _plain_tools),
    ToolEntry("carrier", "What holds the lamps", "Shift+C", "Click in a section for a carrier of its lamps, drag to cut it to size; drag an edge of one to change it", _carrier_tool),
    ToolEntry("calibrate", "Calibrate the drawing", "K", "Drag along something whose length you know, then type it: 94 mm on the kit or 18.8 m full size", _measure_tools),
    ToolEntry("level", "Level the drawing", "H", "Drag along a line that should be level; the drawing turns", _measure_tools),
    ToolEntry("square", "Square up a photo", "Q", "Click the four corners of something rectangular, clockwise from its upper left, then type its size: 120 x 40 mm", _square_tool),
    ToolEntry("crop", "Crop the drawing", "C", "Drag over the part of the drawing to keep; a click shows all of it again", _drawing_tools),
    ToolEntry("align", "Align two views", "J", "Click one point of the kit in one view, then the same point in another: its drawing moves there", _drawing_tools),
    ToolEntry("wand", "Wand", "Shift+D", "Click between the lines of a clean drawing; Enter makes a section of the outline found, Space an opening, F a mast or other fitting", _drawing_tools),
    ToolEntry("trace", "Trace an outline", "T", "Click the corners of a section; Ctrl sets a point an arc runs through, a number the length of a straight run, M mirrors half an outline, Enter closes, F makes a mast or other fitting of it, Backspace takes one back", _outline_tools),
    ToolEntry("cut", "Opening of any shape", "X", "Click the corners of a window or lens on its section, arcs with Ctrl; Enter closes", _outline_tools),
    ToolEntry("curve", "Row along a curve", "U", "Click along the curve, arcs with Ctrl; Up and Down change the count, Enter places the openings", _outline_tools),
    ToolEntry("brush", "Which windows are lit", "O", "Brush over windows to light them; Shift leaves them dark, Ctrl dims them", _measure_tools),
    ToolEntry("eye", "Eye at a window", "E", "Pick an opening seen edge-on, then drag the eye outside: the wedge shows what it sees of the inside", _measure_tools),
    ToolEntry("throw", "Throw of a lamp", "A", "Pick a lamp, then drag: it looks at the pointer, and the faces it lights past the lips glow", _throw_tool),
    ToolEntry("dot", "Dot of light by fibre", "I", "Click on the skin for a dot, drag for a row; Up and Down change the count while you drag", _fibre_tools),
    ToolEntry("panel", "Panel of dots", "Y", "Drag over the place of a panel’s face; its dots come from a picture of it", _fibre_tools),
    ToolEntry("passage", "Passage for wires", "Shift+P", "Drag from one section into another: a passage leads from the one to the other; into nothing: out of the kit", _loom_tools),
    ToolEntry("stand", "Stand", "Shift+T", "Drag from the model to its base: a tube stands between them, and leads go through it", _loom_tools),
    ToolEntry("hub", "Hub where leads are joined", "Shift+H", "Click inside a section: leads that come by are joined there, and one of each net goes on", _loom_tools),
    ToolEntry("way", "Lead a fibre or a wire", "Z", "Pick dots or lamps, then click where they are to run; drag a place to move it, Backspace takes the last one out", _way_tool),
)  # fmt: skip
BY_ID = {e.id: e for e in TOOLBOX}


class Tools(dict[str, "Tool"]):
    """The plate's tools by id, each made when it is first asked for."""

    def __init__(self, plate: Plate) -> None:
        super().__init__()
        self._plate = plate

    def __missing__(self, tool_id: str) -> Tool:
        tool = BY_ID[tool_id].load()[tool_id](self._plate)
        self[tool_id] = tool
        return tool
