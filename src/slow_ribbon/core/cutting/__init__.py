"""All that is made of a solved job for the workshop."""

from __future__ import annotations

from slow_ribbon.core.cutting.cutting_list import (
    NOTHING,
    Cut,
    CutRow,
    Schedule,
    Total,
    bends_of,
    cut_of,
    cutting_list,
    describe_cut,
    run_rows,
    schedule,
)

__all__ = ["NOTHING", "Cut", "CutRow", "Schedule", "Total", "bends_of", "cut_of", "cutting_list", "describe_cut", "run_rows", "schedule"]
