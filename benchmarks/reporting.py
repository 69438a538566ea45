"""Figures beside the times of a benchmark."""

from __future__ import annotations

from typing import Any


def told(benchmark: Any, **figures: float) -> None:
    """Put figures into the report and print them."""
    benchmark.extra_info.update({name: round(value, 2) for name, value in figures.items()})
    print("\n" + ", ".join(f"{name.replace('_', ' ')} {value:.2f}" for name, value in figures.items()))
