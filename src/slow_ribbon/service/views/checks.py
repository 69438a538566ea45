"""Checks as they are shown."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from typing_extensions import TypedDict

from slow_ribbon.core.kernel import Check, Mend, plain
from slow_ribbon.service.views.lines import Coordinates, figure, place
from slow_ribbon.service.views.sentences import Sentence, sentence_parts


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
    mends: list[Mend]


def checks_shown(checks: Sequence[Check]) -> list[CheckFigures]:
    """Return the checks of a run or row."""
    return [
        CheckFigures(
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
            mends=list(check.mends),
        )
        for check in checks
    ]
