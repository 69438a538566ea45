"""Curves of straight facets."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.treatments.curves.base import MOST_FACETS, Curved
from slow_ribbon.core.runs.treatments.curves.faceting import Facets, faceted, strays


class Faceted(Curved):
    """Of straight pieces: this many a curve (``number``), or as many as keep to a ``deviation``, mm; all facets of a curve alike.

    They are *equal* along the line, with their corners on it; or *fitted* to the corners: they touch the line, with half a facet at both
    ends of a curve in line with what comes before and after it, so that all its corners turn alike. Then ``number`` is that of corners.
    """

    in_facets: ClassVar = True
    usual: ClassVar[dict[str, float]] = {"deviation": 5.0}

    kind: Literal["faceted"] = "faceted"
    number: Annotated[int, Field(ge=1, le=MOST_FACETS)] | None = None
    deviation: Size | None = None
    fit: Literal["equal", "fitted"] = "equal"

    @model_validator(mode="after")
    def _said(self) -> Faceted:
        if self.number is None and self.deviation is None:
            raise ValueError("say how many facets a curve has, or how far they may be off it")
        return self

    def course_of(self, course: Course) -> Course:
        return faceted(course, self._facets)

    def strays(self, course: Course) -> float:
        return strays(course, self._facets)

    @property
    def _facets(self) -> Facets:
        return Facets(self.number, self.deviation, self.fit)
