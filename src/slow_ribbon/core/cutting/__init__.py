"""All that is made of a solved job for the workshop."""

from __future__ import annotations

from slow_ribbon.core.cutting.cut_rows import Cut, CutRow, bends_of, cut_of, describe_cut, part_of, run_rows
from slow_ribbon.core.cutting.cutting_list import cutting_list, notes_of, section_named
from slow_ribbon.core.cutting.item_list import ItemPlace, item_places, items_by_kind
from slow_ribbon.core.cutting.patterns import Pattern, patterns_of
from slow_ribbon.core.cutting.rows_of_typicals import typical_rows
from slow_ribbon.core.cutting.saw_settings import AtSaw, Setting, as_held, at_the_saw
from slow_ribbon.core.cutting.templates import templates_of
from slow_ribbon.core.cutting.totals import NOTHING, Schedule, ScheduleEntry, Total, schedule, schedule_entries

__all__ = [
    "NOTHING",
    "AtSaw",
    "Cut",
    "CutRow",
    "ItemPlace",
    "Pattern",
    "Schedule",
    "ScheduleEntry",
    "Setting",
    "Total",
    "as_held",
    "at_the_saw",
    "bends_of",
    "cut_of",
    "cutting_list",
    "describe_cut",
    "item_places",
    "items_by_kind",
    "notes_of",
    "part_of",
    "patterns_of",
    "run_rows",
    "schedule",
    "schedule_entries",
    "section_named",
    "templates_of",
    "typical_rows",
]
