"""All readers with their libraries, loaded once for the processes that are forked to read one file each."""

from slow_ribbon.imports import dxf, geojson, ifc, isolated, mesh, pictures, points, svg

__all__ = ["dxf", "geojson", "ifc", "isolated", "mesh", "pictures", "points", "svg"]
