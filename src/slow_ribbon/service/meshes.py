"""Meshes of runs as they are sent, and those that a window will ask for next made while the answer to its edit travels."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Mapping, Sequence
from typing import Any, Final

from cachetools import LRUCache, TTLCache

from slow_ribbon.core.job import Job, touched
from slow_ribbon.core.kernel import Refused, TooLong
from slow_ribbon.core.solve import Solved, SolvedRun
from slow_ribbon.exports.gltf import surface_glb
from slow_ribbon.service.packing import packed_in_a_hurry
from slow_ribbon.service.work.heavy import at_hand, worked
from slow_ribbon.service.work.turns import TURN

#: Bytes of a mesh that a browser can be asked to draw.
_MOST_OF_MESH: Final = 100 * 1024**2
#: A window that asked for a mesh within this many seconds looks at 3D.
_LOOKED_AT: Final = 60.0
#: Meshes made ahead for one edit, and kept until they are asked for; each of at most this many bytes.
_AHEAD: Final = 4
_KEPT: Final = 16
_MOST_AHEAD: Final = 256 * 1024


def mesh_written(run: SolvedRun, extras: Mapping[str, Any] | None = None) -> bytes:
    """Return a run's mesh, with what goes along with it. Raises ``Refused`` where it is too large to be drawn."""
    glb = surface_glb(run.surface(), run.id, extras)
    if len(glb) > _MOST_OF_MESH:
        message = f"is {len(glb) / 1024**2:.0f} MB, and {_MOST_OF_MESH // 1024**2} MB is the most that is drawn"
        raise Refused(
            f"What 3D would show of the run of {run.tags[0]} {message}: make the section or the line simpler.", "", "mesh-too-large"
        )
    return glb


def mesh(run: SolvedRun, extras: Mapping[str, Any] | None = None) -> bytes:
    """Return a run's mesh as binary glTF, with what goes along with it. Raises as ``mesh_written`` and ``heavy.apart``."""
    with TURN:
        return worked(mesh_written, run, extras)


class MeshesAhead:
    """Compressed meshes of one process made before they are asked for. Safe to use from several threads.

    A window that shows 3D asks for the mesh of what it has just changed as soon as it has the
    answer. Until that has travelled and been read, the mesh can be made.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._asked: TTLCache[str, bool] = TTLCache(_KEPT, _LOOKED_AT)
        self._made: LRUCache[str, bytes] = LRUCache(_KEPT)
        self._planned: deque[tuple[Job, Solved]] = deque(maxlen=_KEPT)

    def packed(self, job: str, run: SolvedRun) -> bytes:
        """Return a run's mesh compressed with gzip. Raises as ``mesh``."""
        with self._lock:
            self._asked[job] = True
        # What is being made ahead has the turn.
        with TURN:
            with self._lock:
                ahead = self._made.get(run.key)
            return packed_in_a_hurry(worked(mesh_written, run)) if ahead is None else ahead

    def expected(self, job: str) -> bool:
        """Return whether meshes of a job were asked for lately."""
        with self._lock:
            return job in self._asked

    def made(self, key: str) -> bool:
        """Return whether a mesh has been made ahead."""
        return key in self._made

    def plan(self, before: Job, after: Solved) -> None:
        """Have the meshes of what an edit changed made when there is time for it."""
        self._planned.append((before, after))

    def make(self) -> None:
        """Make the meshes of a few runs for each plan; what is heavy or cannot be drawn is left until it is asked for."""
        while self._planned:
            try:
                before, after = self._planned.popleft()
            except IndexError:  # another thread took it
                return
            self._make([after.runs[id] for id in touched(before, after.job)["runs"][:_AHEAD]])

    def _make(self, runs: Sequence[SolvedRun]) -> None:
        for run in runs:
            with TURN:
                try:
                    with at_hand():
                        made = packed_in_a_hurry(mesh_written(run))
                except (TooLong, Refused):
                    continue
                if len(made) > _MOST_AHEAD:
                    continue
                with self._lock:
                    self._made[run.key] = made
