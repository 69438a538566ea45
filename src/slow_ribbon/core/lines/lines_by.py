"""Lines of a job that have something in common: which lines a rule is for."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import StringConstraints

from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.lines.model import Line

Words = Annotated[str, StringConstraints(min_length=1, max_length=255, strip_whitespace=True)]


class LinesBy(Model):
    """Which lines a rule is for: those of a layer, of a group, or whose name has some words in it, whatever their case."""

    kind: Literal["layer", "group", "name"]
    words: Words

    def has(self, line: Line) -> bool:
        """Return whether a line is one of them."""
        if self.kind == "name":
            return self.words.casefold() in line.name.casefold()
        if self.kind == "group":
            return line.group == self.words
        return line.source is not None and self.words in (line.source.layer, *line.source.also)

    def described(self) -> str:
        """Return which lines they are, in words."""
        return f"every line {'named' if self.kind == 'name' else f'of {self.kind}'} {self.words}"
