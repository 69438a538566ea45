"""The faces of a mesh, to be seen and pointed at: triangles that lie on without a sharp edge, and the loops of edges around them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import scipy.sparse
from scipy.sparse.csgraph import connected_components

from slow_ribbon.core.kernel import Array, Indices, Refused


@dataclass(frozen=True)
class Faces:
    """Faces of a mesh, the largest first.

    vertices (n, 3) in mm and triangles (m, 3); those of face i are ``begins[i]:begins[i + 1]``, of ``areas[i]`` mm².
    Loop j goes around face ``of[j]`` along the drawing's edges ``edges[loops[j]:loops[j + 1]]``, in no order; a
    face with a hole has two loops, a ball none.
    """

    vertices: Array
    triangles: Indices
    begins: Indices
    areas: Array
    edges: Indices
    loops: Indices
    of: Indices

    def along(self, loops: Iterable[int]) -> Indices:
        """Return the numbers of the drawing's edges that loops go along. Raises ``Refused`` for a loop that is not there."""
        wanted = sorted(set(loops))
        if wanted and not 0 <= wanted[0] <= wanted[-1] < len(self.of):
            raise Refused("The mesh no longer has this face: it was read in another way since. Point at it again.", "loops", "unknown-loop")
        parts = [self.edges[self.loops[loop] : self.loops[loop + 1]] for loop in wanted]
        return np.unique(np.concatenate(parts)) if parts else np.zeros(0, dtype=np.int64)

    def around(self, loops: Iterable[int]) -> dict[int, str]:
        """Return the names of the faces that the edges along loops go around, by edge; of two faces the larger."""
        names: dict[int, str] = {}
        for loop in sorted(set(loops)):
            for edge in self.edges[self.loops[loop] : self.loops[loop + 1]].tolist():
                names.setdefault(edge, f"Face {self.of[loop] + 1}")
        return names

    def heights(self, face: int) -> tuple[float, float]:
        """Return the least and the greatest height of a face, mm."""
        heights = self.vertices[self.triangles[self.begins[face] : self.begins[face + 1]], 2]
        return float(heights.min()), float(heights.max())


def faces_of(vertices: Array, triangles: Indices, areas: Array, smooth: Indices, sides: Indices, sided: Indices, edges: Indices) -> Faces:
    """Return the faces that triangles (m, 3) make.

    smooth (s, 2): pairs of triangles that lie on without a sharp edge. sides (3m, 2): the sides of the triangles,
    vertices in order of number, each of the triangle ``sided`` (3m,). edges (e, 2): the drawing's edges in the
    order of their numbers, vertices in order of number, between which faces end.
    """
    count = len(triangles)
    face = _components(count, smooth)
    # The largest come first: they are what is meant most.
    size: Array = np.bincount(face, areas).astype(float)
    rank = np.empty(len(size), dtype=np.int64)
    rank[np.argsort(-size, kind="stable")] = np.arange(len(size))
    face = rank[face]
    order = np.argsort(face, kind="stable")
    begins = np.concatenate([[0], np.cumsum(np.bincount(face, minlength=len(size)))])

    # Every edge with each face that it is a side of, once.
    names = edges[:, 0] * len(vertices) + edges[:, 1]
    sorting = np.argsort(names, kind="stable")
    wanted = sides[:, 0] * len(vertices) + sides[:, 1]
    at = np.searchsorted(names[sorting], wanted)
    there = at < len(names)
    there[there] = names[sorting][at[there]] == wanted[there]
    pairs = np.unique(np.column_stack([face[sided[there]], sorting[at[there]]]), axis=0).reshape(-1, 2)
    # Edges of one face that meet in a vertex are of one loop.
    corners = pairs[:, :1] * len(vertices) + edges[pairs[:, 1]]
    _, node = np.unique(corners.reshape(-1), return_inverse=True)
    node = node.reshape(-1, 2)
    loop = _components(int(node.max()) + 1 if len(node) else 0, node)[node[:, 0]] if len(node) else np.zeros(0, dtype=np.int64)
    by_loop = np.lexsort((pairs[:, 1], loop, pairs[:, 0]))
    changes = np.flatnonzero(np.diff(loop[by_loop])) + 1
    loops = np.concatenate([[0], changes, [len(pairs)]]) if len(pairs) else np.zeros(1, dtype=np.int64)
    return Faces(
        vertices=vertices,
        triangles=triangles[order],
        begins=begins,
        areas=np.sort(size)[::-1],
        edges=pairs[by_loop, 1],
        loops=loops.astype(np.int64),
        of=pairs[by_loop][loops[:-1], 0],
    )


def _components(count: int, pairs: Indices) -> Indices:
    """Return the number of the part that each of ``count`` nodes is in, where pairs (n, 2) hang together."""
    graph = scipy.sparse.coo_array((np.ones(len(pairs), dtype=bool), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    _, labels = connected_components(graph, directed=False)
    return np.asarray(labels, dtype=np.int64)
