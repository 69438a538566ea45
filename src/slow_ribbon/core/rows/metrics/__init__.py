"""How distance along a stretch is measured: a file for each way, all of them listed here."""

from typing import Final

from slow_ribbon.core.rows.metrics.along_line import AlongLine
from slow_ribbon.core.rows.metrics.base import Metric
from slow_ribbon.core.rows.metrics.chord import Chord
from slow_ribbon.core.rows.metrics.on_plan import OnPlan

#: Every way of measuring, by its kind.
METRICS: Final[dict[str, type[Metric]]] = {metric.kind: metric for metric in (AlongLine, OnPlan, Chord)}

__all__ = ["METRICS", "AlongLine", "Chord", "Metric", "OnPlan"]
