"""Curves, frames along them, edges and their joining: plane and space, without any document."""

from __future__ import annotations

from slow_ribbon.core.geometry.chaining import Chain, JoinedEdges, Junction, Report, join
from slow_ribbon.core.geometry.curves import Curve, flattening
from slow_ribbon.core.geometry.edge_graph import Loose
from slow_ribbon.core.geometry.polylines import nearest_chainage, straightened

__all__ = ["Chain", "Curve", "JoinedEdges", "Junction", "Loose", "Report", "flattening", "join", "nearest_chainage", "straightened"]
