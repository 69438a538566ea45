"""Edges of sections: straights, arcs of circles and ellipses, cubic curves; a file for each kind, all of them listed here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Literal, Union

from pydantic import Field

from slow_ribbon.core.sections.edges.arc import ArcEdge
from slow_ribbon.core.sections.edges.base import OutlineEdgeModel
from slow_ribbon.core.sections.edges.curve import CurveEdge
from slow_ribbon.core.sections.edges.straight import StraightEdge

#: Every kind of edge.
EDGES: Final[tuple[type[OutlineEdgeModel], ...]] = (StraightEdge, ArcEdge, CurveEdge)
#: By the word that a document has for it.
EDGE_OF: Final[dict[str, type[OutlineEdgeModel]]] = {edge.model_fields["kind"].default: edge for edge in EDGES}

if TYPE_CHECKING:
    OutlineEdge = OutlineEdgeModel
    EdgeKind = str
else:
    OutlineEdge = Annotated[Union[EDGES], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
    EdgeKind = Literal[tuple(EDGE_OF)]

__all__ = ["EDGES", "EDGE_OF", "EdgeKind", "OutlineEdge"]
