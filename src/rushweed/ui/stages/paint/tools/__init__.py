"""The tools of Paint, in the order of the column. A new one is a file here and a place in this table."""

from rushweed.ui.stages.paint.tools.area import SelectArea, SelectOutline, TakeStamp
from rushweed.ui.stages.paint.tools.board import LevelBoard
from rushweed.ui.stages.paint.tools.brush import Brush, Erase
from rushweed.ui.stages.paint.tools.forms import Fill, Line, Rectangle, Replace
from rushweed.ui.stages.paint.tools.measure import Measure
from rushweed.ui.stages.paint.tools.rooms import Rooms
from rushweed.ui.stages.paint.tools.scatter import ScatterThings
from rushweed.ui.stages.paint.tools.start import Start
from rushweed.ui.stages.paint.tools.things import Things
from rushweed.ui.stages.paint.tools.tool import PaintTool

TOOLS: tuple[type[PaintTool], ...] = (
    SelectArea, SelectOutline, Brush, Line, Rectangle, Fill, Replace, Erase, TakeStamp, Things, ScatterThings,
    Start, Rooms, LevelBoard, Measure,
)  # fmt: skip
