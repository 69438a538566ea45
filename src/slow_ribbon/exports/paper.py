"""How a list is printed: on which paper, with which of its columns."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

#: What there is to print on, the usual one first.
Paper = Literal["a4", "a3", "letter", "tabloid"]
#: The columns of the cutting list that can be left out.
ListColumn = Literal["short", "line", "begins", "ends", "weight", "painted", "notes"]


@dataclass(frozen=True)
class Printed:
    """On which ``paper`` a list is printed, ``without`` some of its columns."""

    paper: Paper = "a4"
    without: frozenset[ListColumn] = frozenset()
