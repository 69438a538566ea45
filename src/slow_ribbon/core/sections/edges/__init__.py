"""Edges of sections: straights, arcs of circles and ellipses, cubic curves; a file each."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.sections.edges.arc import ArcEdge
from slow_ribbon.core.sections.edges.base import EdgeKind, OutlineEdgeModel
from slow_ribbon.core.sections.edges.curve import CurveEdge
from slow_ribbon.core.sections.edges.straight import StraightEdge

__all__ = ["EDGES", "EdgeKind", "OutlineEdge"]

_KINDS: Final = (StraightEdge, ArcEdge, CurveEdge)
#: The kinds of edges by the word that a document has for them.
EDGES: Final[dict[EdgeKind, type[OutlineEdgeModel]]] = {edge.model_fields["kind"].default: edge for edge in _KINDS}

if TYPE_CHECKING:
    OutlineEdge = OutlineEdgeModel
else:
    OutlineEdge = Annotated[Union[_KINDS], Field(discriminator="kind")]  # noqa: UP007
