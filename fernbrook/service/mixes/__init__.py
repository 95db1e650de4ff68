"""Mixes: their changes and history, orders, levels, shapes, listening."""

from fernbrook.service.mixes.courses import MOST_COLUMNS, Course, CourseEntry, Courses
from fernbrook.service.mixes.editing import Editing, FoldProposal, LengthProposal
from fernbrook.service.mixes.listening import Listening
from fernbrook.service.mixes.mixes import HistoryStep, Mixes, MixSummary, OpenMix, Trial
from fernbrook.service.mixes.orders import Jump, Orders, Search
from fernbrook.service.mixes.shapes import KeptShape, Shapes

__all__ = [
    "MOST_COLUMNS",
    "Course",
    "CourseEntry",
    "Courses",
    "Editing",
    "FoldProposal",
    "HistoryStep",
    "Jump",
    "KeptShape",
    "LengthProposal",
    "Listening",
    "MixSummary",
    "Mixes",
    "OpenMix",
    "Orders",
    "Search",
    "Shapes",
    "Trial",
]
