"""Figures as they are sent, computed and written once for as long as their source is unchanged.

They are as heavy as what they are of, a line of many curves or a section of two thousand edges,
and are worked out at hand or apart as ``heavy`` says.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final, cast

from pydantic_core import to_json

from slow_ribbon.core.cutting import run_rows, typical_rows
from slow_ribbon.core.job import LINES, ROWS, RUNS, SECTIONS, TYPICALS, Kind
from slow_ribbon.core.kernel import Saw, kept_with
from slow_ribbon.core.lines import Line
from slow_ribbon.core.rows import Row
from slow_ribbon.core.sections import Section
from slow_ribbon.core.solve import SolvedRow, SolvedRun, SolvedThing, SolvedTypical, key_of
from slow_ribbon.service.views.checks import checks_of
from slow_ribbon.service.views.cutting import cut_rows_shown
from slow_ribbon.service.views.lines import line_shown
from slow_ribbon.service.views.rows import row_shown
from slow_ribbon.service.views.runs import run_shown
from slow_ribbon.service.views.sections import section_shown
from slow_ribbon.service.views.typicals import typical_shown
from slow_ribbon.service.work.heavy import worked


@kept_with
def line_json(line: Line) -> bytes:
    """Return a line's figures."""
    return worked(_line, line)


@kept_with
def section_json(section: Section) -> bytes:
    """Return a section's figures."""
    return worked(_section, section)


@kept_with
def run_json(run: SolvedRun) -> bytes:
    """Return a run's figures."""
    return worked(_run, run)


@kept_with
def _by_saw(_: SolvedThing) -> dict[Saw, bytes]:
    return {}


def _as_set(thing: SolvedThing, saw: Saw, work: Callable[[Any, Saw], bytes]) -> bytes:
    """Return the figures of a thing at a setting of the saw; those of the setting asked for last are kept."""
    known = _by_saw(thing)
    message = known.get(saw)
    if message is None:
        message = worked(work, thing, saw)
        known.clear()
        known[saw] = message
    return message


def cutting_json(run: SolvedRun, saw: Saw) -> bytes:
    """Return a run's rows of the cutting list, as they are set at a saw."""
    return _as_set(run, saw, _cutting)


@kept_with
def typical_json(typical: SolvedTypical) -> bytes:
    """Return a typical's figures."""
    return worked(_typical, typical)


def places_json(typical: SolvedTypical, saw: Saw) -> bytes:
    """Return the rows of the cutting list of all that stands in a typical's places."""
    return _as_set(typical, saw, _in_places)


def cut_key(thing: SolvedThing, saw: Saw) -> str:
    """Return the key of the rows of the cutting list of a run or a typical, as they are set at a saw: 40 hexadecimal digits."""
    return thing.key + key_of(saw)[:8]


def rows_json(thing: SolvedThing, saw: Saw) -> bytes:
    """Return the rows of the cutting list of a run, or of all that stands in the places of a typical, as they are set at a saw."""
    return places_json(thing, saw) if isinstance(thing, SolvedTypical) else cutting_json(cast(SolvedRun, thing), saw)


@kept_with
def checks_json(thing: SolvedThing) -> bytes:
    """Return the checks of a thing that is solved."""
    return to_json(checks_of(thing))


def row_json(row: Row, solved: SolvedRow, line: Line) -> bytes:
    """Return a row's figures."""
    return worked(_row, row, solved, line)


def heavy_json(thing: SolvedThing) -> tuple[bytes, bytes] | None:
    """Return the figures of a thing that take as long as solving it, to be sent along from the process that solved it."""
    return (run_json(thing), cutting_json(thing, Saw())) if isinstance(thing, SolvedRun) else None


def keep_json(thing: SolvedThing, message: tuple[bytes, bytes] | None) -> None:
    """Keep the figures of a thing, as ``heavy_json`` returned them in another process."""
    if isinstance(thing, SolvedRun) and message is not None:
        run_json.keep(thing, message[0])
        _by_saw(thing)[Saw()] = message[1]


@dataclass(frozen=True, kw_only=True)
class KindView:
    """How the figures of a kind of thing are reported, from the thing, what it stands on, and its result if it is solved."""

    kind: Kind[Any]
    written: Callable[[Any, tuple[Any, ...], Any], bytes]
    #: Whether it has rows in the cutting list.
    cut: bool = False


#: Every kind of thing that has figures.
TELLINGS: Final = (
    KindView(kind=LINES, written=lambda line, on, solved: line_json(line)),
    KindView(kind=SECTIONS, written=lambda section, on, solved: section_json(section)),
    KindView(kind=RUNS, written=lambda run, on, solved: run_json(solved), cut=True),
    KindView(kind=ROWS, written=lambda row, on, solved: row_json(row, solved, on[0])),
    KindView(kind=TYPICALS, written=lambda typical, on, solved: typical_json(solved), cut=True),
)


def _line(line: Line) -> bytes:
    return to_json(line_shown(line))


def _section(section: Section) -> bytes:
    return to_json(section_shown(section))


def _run(run: SolvedRun) -> bytes:
    return to_json(run_shown(run))


def _cutting(run: SolvedRun, saw: Saw) -> bytes:
    return to_json(cut_rows_shown(run_rows(run), saw))


def _typical(typical: SolvedTypical) -> bytes:
    return to_json(typical_shown(typical))


def _in_places(typical: SolvedTypical, saw: Saw) -> bytes:
    return to_json(cut_rows_shown(typical_rows(typical), saw))


def _row(row: Row, solved: SolvedRow, line: Line) -> bytes:
    return to_json(row_shown(row, solved, line))
