"""Figures beside the times of a benchmark."""

from __future__ import annotations

from typing import Any


def report(benchmark: Any, **figures: float | str) -> None:
    """Put figures and names into the report and print them."""
    rounded = {name: value if isinstance(value, str) else round(value, 2) for name, value in figures.items()}
    benchmark.extra_info.update(rounded)
    print("\n" + ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in rounded.items()))
