"""Lines of a large drawing, made ready while a person looks at what joining makes of it, before they are added."""

from __future__ import annotations

import threading
from typing import Final

from slow_ribbon.core.kernel import Point3
from slow_ribbon.core.lines import LineBody
from slow_ribbon.imports.drawing import site_origin
from slow_ribbon.imports.line_finding import Found, line_bodies
from slow_ribbon.service.work.turns import TURN

#: Fewer lines are made in no time when they are added.
_MANY: Final = 1000
#: Lines made before others have their turn.
_AT_ONCE: Final = 100


class _Making:
    """Lines that are being made, of all chains, near a job's zero."""

    def __init__(self, found: Found, origin: Point3, file: str, content: str) -> None:
        self.of = (origin, file, content)
        self.found = found
        self.busy = threading.Lock()
        self.bodies: list[LineBody] | None = None


class BodiesAhead:
    """What was last looked at and is large, made ready. Safe to use from several threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._making: _Making | None = None

    def make(self, found: Found, file: str, content: str) -> None:
        """Make lines of all chains, unless there are few or another drawing is looked at meanwhile."""
        count = len(found.joined.chains)
        if count < _MANY:
            return
        making = _Making(found, site_origin(found.drawing), file, content)
        with making.busy:
            with self._lock:
                self._making = making
            bodies: list[LineBody] = []
            with TURN:
                for low in range(0, count, _AT_ONCE):
                    if self._making is not making:
                        return
                    bodies += line_bodies(found, list(range(low, min(low + _AT_ONCE, count))), *making.of)
                    TURN.pass_on()
            making.bodies = bodies

    def take(self, found: Found, chosen: list[int] | None, origin: Point3, file: str, content: str) -> list[LineBody]:
        """Return the chosen chains as ``line_bodies`` does, made already where they are; what was made is then forgotten."""
        making = self._making
        many = chosen is None or len(chosen) >= _MANY
        if many and making is not None and making.found is found and making.of == (origin, file, content):
            # What is nearly ready is waited for.
            with making.busy:
                bodies = making.bodies
            with self._lock:
                if self._making is making:
                    self._making = None
            if bodies is not None and (chosen is None or all(0 <= number < len(bodies) for number in chosen)):
                return bodies if chosen is None else [bodies[number] for number in chosen]
        return line_bodies(found, chosen, origin, file, content)
