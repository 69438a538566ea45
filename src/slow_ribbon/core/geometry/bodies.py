"""Closed meshes as bodies that can be cut with one another (manifold3d)."""

from __future__ import annotations

import manifold3d
import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Indices


def body_of(vertices: Array, faces: Indices) -> manifold3d.Manifold:
    """Return the body of a closed mesh: ``vertices`` (n, 3), mm, and ``faces`` (f, 3), anticlockwise from outside."""
    # It takes only arrays that may be written into.
    return manifold3d.Manifold(manifold3d.Mesh64(np.array(vertices, dtype=np.float64), np.array(faces, dtype=np.uint64)))
