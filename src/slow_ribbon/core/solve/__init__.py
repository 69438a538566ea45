"""From a job to its pieces, items and checks."""

from __future__ import annotations

from slow_ribbon.core.solve.collisions import Clash, clash_checks, clashes
from slow_ribbon.core.solve.cross_section import CutAcross, CutThing, cut_across
from slow_ribbon.core.solve.instances import SolvedTypical, Variant, standing_lines, standing_rows, standing_runs, typicals_of
from slow_ribbon.core.solve.mesh_key import drawn_as
from slow_ribbon.core.solve.results import Solved, SolvedRow, SolvedRun, SolvedThing
from slow_ribbon.core.solve.solve_kinds import SOLVING, solve_wall
from slow_ribbon.core.solve.solver import Solver, Wanted, key_of, solve, with_what_they_stand_on

__all__ = [
    "SOLVING",
    "Clash",
    "CutAcross",
    "CutThing",
    "Solved",
    "SolvedRow",
    "SolvedRun",
    "SolvedThing",
    "SolvedTypical",
    "Solver",
    "Variant",
    "Wanted",
    "clash_checks",
    "clashes",
    "cut_across",
    "drawn_as",
    "key_of",
    "solve",
    "solve_wall",
    "standing_lines",
    "standing_rows",
    "standing_runs",
    "typicals_of",
    "with_what_they_stand_on",
]
