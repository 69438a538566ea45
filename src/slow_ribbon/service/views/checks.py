"""Checks as they are shown."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from typing_extensions import TypedDict

from slow_ribbon.core.job.edits import AnyEdit, Edit, MendEdit, mends_of
from slow_ribbon.core.kernel import Check, plain
from slow_ribbon.core.solve import SolvedRun, SolvedThing
from slow_ribbon.service.views.lines import Coordinates, figure, place
from slow_ribbon.service.views.sentences import Sentence, sentence_parts


class MendFigures(TypedDict):
    """The edit that mends a check, under the name of its action."""

    action: str
    edit: AnyEdit


class CheckFigures(TypedDict):
    """A check; ``key`` is what it is accepted by, ``keys`` all that it may have been; ``said`` what it says in millimetres."""

    key: str
    keys: list[str]
    said: str
    kind: str
    severity: Literal["fault", "warning"]
    what: Sentence
    remedy: Sentence
    thing: str
    piece: int | None
    chainage: float
    point: Coordinates
    mends: list[MendFigures]


def checks_of(thing: SolvedThing) -> list[CheckFigures]:
    """Return the checks of a thing that is solved, those of a run with what mends them."""
    if not isinstance(thing, SolvedRun):
        return [check_shown(check) for check in thing.checks]
    corners = [(corner.chainage, corner.vertex) for corner in thing.corners]
    return [check_shown(check, mends_of(check, thing.line, corners)) for check in thing.checks]


def check_shown(check: Check, mends: Sequence[MendEdit] = ()) -> CheckFigures:
    """Return a check as it is shown, with the edits that mend it."""
    return CheckFigures(
        key=check.key,
        keys=list(check.keys),
        said=plain(check.what),
        kind=check.kind,
        severity=check.severity,
        what=sentence_parts(check.what),
        remedy=sentence_parts(check.remedy),
        thing=check.thing,
        piece=check.piece,
        chainage=figure(check.chainage),
        point=place(check.point),
        mends=[MendFigures(action=mend.action, edit=_written(mend.edit)) for mend in mends],
    )


def _written(edit: Edit) -> Any:
    """Return an edit as it is sent: only what it says, since a field that is empty is taken away."""
    return {"kind": edit.kind, **edit.model_dump(mode="json", exclude_unset=True)}
