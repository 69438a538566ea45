"""The kinds of thing that a job holds, one entry each.

Terms
-----
group
    the field of the job that holds the things of a kind, and its name wherever things are listed by kind.
reference
    the id of a thing that another cannot be without: a run's line and section.
tagged
    things whose pieces or items are distinguished by letters of their own.
part
    something within a thing that has an id too: a line's openings and marks.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final, Generic, Protocol, TypeVar

from slow_ribbon.core.job.document.underlay import Picture
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.made.panes import check_pane
from slow_ribbon.core.lines.made.strips import check_strip
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.typicals.typical import MANY_PLACES, PlacesOfRow, Typical
from slow_ribbon.core.lines.validate import check_line, surely_sound
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.row_rule import RowRule
from slow_ribbon.core.rows.setting_out import check_number, set_row_out
from slow_ribbon.core.runs.placement.run import Run, placing_on, run_course
from slow_ribbon.core.runs.placement.run_rule import RunRule
from slow_ribbon.core.sections.document.draft import Draft
from slow_ribbon.core.sections.document.section import Section, bed_up, section_shape
from slow_ribbon.core.sections.operations.parametric_sizes import check_sizes, in_row

Thing = Line | Section | Run | Row | Picture | RunRule | RowRule | Draft | Typical
AnyThing = TypeVar("AnyThing", Line, Section, Run, Row, Picture, RunRule, RowRule, Draft, Typical)


class Holder(Protocol):
    """What holds the things that a check may look up."""

    def line(self, id: str) -> Line: ...

    def section(self, id: str) -> Section: ...

    def row(self, id: str) -> Row: ...

    def rows_on(self, lines: Collection[str]) -> set[str]: ...

    @property
    def typicals(self) -> tuple[Typical, ...]: ...


def _nothing(_: object) -> tuple[str, ...]:
    return ()


@dataclass(frozen=True, kw_only=True)
class Kind(Generic[AnyThing]):
    """A kind of thing.

    ``letter`` begins the ids of new things, and means nothing afterwards. ``references`` returns the ids of what a
    thing refers to, one of each of the groups ``refers_to``. ``check`` raises ``Refused`` where a thing does not
    hold together with what it refers to; its last argument says whether very many items, or places, were confirmed. ``sound``
    returns quickly which of many need no check. How it is solved and shown is said in ``solve/solve_kinds`` and
    in ``service/views``, for those that are.
    """

    word: str
    group: str
    letter: str
    model: type[AnyThing]
    check: Callable[[Holder, AnyThing, bool], None]
    references: Callable[[AnyThing], Iterable[str]] = _nothing
    refers_to: tuple[str, ...] = ()
    sound: Callable[[Iterable[AnyThing]], set[str]] = lambda _: set()
    parts: Mapping[str, str] = field(default_factory=dict)
    tagged: bool = False


def _check_line(_: Holder, line: Line, confirmed: bool) -> None:
    check_line(line)
    check_strip(line)
    check_pane(line)


def _check_section(_: Holder, section: Section, confirmed: bool) -> None:
    section_shape(section)
    bed_up(section)
    check_sizes(section)


def _check_run(job: Holder, run: Run, confirmed: bool) -> None:
    section = job.section(run.section)
    if run.size is not None:
        in_row(section, run.size)
    line = job.line(run.line)
    placing_on(run, line)
    run_course(run, line)


def _check_row(job: Holder, row: Row, confirmed: bool) -> None:
    line = job.line(row.line)
    check_number(row, line, confirmed)
    set_row_out(row, line)


def _check_rule(job: Holder, rule: RunRule, confirmed: bool) -> None:
    section = job.section(rule.section)
    if rule.size is not None:
        in_row(section, rule.size)


def _check_row_rule(job: Holder, rule: RowRule, confirmed: bool) -> None:
    row = job.row(rule.row)
    if row.rule is not None:
        what = f"{row.name} is made by a rule itself: let {rule.name} be like another row, or detach {row.name} from its rule first."
        raise Refused(what, "row", "by-rule")


def _check_picture(_: Holder, picture: Picture, confirmed: bool) -> None:
    """A picture stands by itself: what its fields say is all there is to it."""


def _check_draft(_: Holder, draft: Draft, confirmed: bool) -> None:
    """A draft may be anything that is drawn."""


def _check_typical(job: Holder, typical: Typical, confirmed: bool) -> None:
    for at, id in enumerate(typical.lines):
        line = job.line(id)
        if id in typical.lines[:at]:
            raise Refused(f"{line.name} is listed twice in {typical.name}: list it once.", f"lines.{at}", "line-twice")
        for other in job.typicals:
            if other.id != typical.id and id in other.lines:
                what = f"{line.name} stands in the places of {other.name} already: a line belongs to one typical."
                raise Refused(what, f"lines.{at}", "line-twice")
    if typical.laid is not None and typical.laid.follows is not None:
        along = job.line(typical.laid.follows)
        if along.id in typical.lines:
            what = f"{typical.name} would contain itself: {along.name}, along which its places lie, is one of its lines. Choose another."
            raise Refused(what, "laid.follows", "holds-itself")
    if isinstance(typical.laid, PlacesOfRow) and typical.laid.row in job.rows_on(typical.lines):
        what = f"{typical.name} would contain itself: the row that sets it out lies on one of its lines. Choose another row."
        raise Refused(what, "laid.row", "holds-itself")
    count = len(typical.places) + 1
    if count >= MANY_PLACES and not confirmed:
        raise Refused(f"{typical.name} would stand in {count:,} places. Is that intended?", "places", "confirm-many")
    names = {typical.here}
    for at, place in enumerate(typical.places):
        if place.name in names:
            raise Refused(f"Two places of {typical.name} are called {place.name}: name each its own.", f"places.{at}.name", "name-twice")
        names.add(place.name)


LINES: Final = Kind(
    word="line",
    group="lines",
    letter="L",
    model=Line,
    check=_check_line,
    # Thousands of lines are not resolved one by one only to report that they are sound.
    sound=lambda lines: surely_sound([line for line in lines if line.strip is None and line.pane is None]),
    parts={"openings": "O", "marks": "M"},
)
SECTIONS: Final = Kind(word="section", group="sections", letter="S", model=Section, check=_check_section)
RUNS: Final = Kind(
    word="run",
    group="runs",
    letter="R",
    model=Run,
    check=_check_run,
    references=lambda run: (run.line, run.section),
    refers_to=("lines", "sections"),
    tagged=True,
)
ROWS: Final = Kind(
    word="row",
    group="rows",
    letter="I",
    model=Row,
    check=_check_row,
    references=lambda row: (row.line,),
    refers_to=("lines",),
    tagged=True,
)
RULES: Final = Kind(
    word="rule",
    group="rules",
    letter="U",
    model=RunRule,
    check=_check_rule,
    references=lambda rule: (rule.section,),
    refers_to=("sections",),
)
ROW_RULES: Final = Kind(
    word="rule of rows",
    group="row_rules",
    letter="Q",
    model=RowRule,
    check=_check_row_rule,
    references=lambda rule: (rule.row,),
    refers_to=("rows",),
)
PICTURES: Final = Kind(word="picture", group="pictures", letter="P", model=Picture, check=_check_picture)
DRAFTS: Final = Kind(word="draft", group="drafts", letter="D", model=Draft, check=_check_draft)
#: It does without a line that is removed, and is checked with its lines; so it refers to none in the sense of ``references``.
TYPICALS: Final = Kind(word="typical", group="typicals", letter="T", model=Typical, check=_check_typical, parts={"places": "W"})

#: Every kind of thing; one that is referred to comes before those that refer to it.
KINDS: Final[tuple[Kind[Any], ...]] = (LINES, SECTIONS, RUNS, ROWS, PICTURES, RULES, ROW_RULES, DRAFTS, TYPICALS)
GROUPS: Final = tuple(kind.group for kind in KINDS)
_KIND_OF: Final[Mapping[type, Kind[Any]]] = {kind.model: kind for kind in KINDS}


def kind_of(thing: Thing) -> Kind[Any]:
    """Return the kind of a thing."""
    return _KIND_OF[type(thing)]
