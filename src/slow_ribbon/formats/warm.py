"""All readers with their libraries, loaded once for the processes that are forked to read one file each."""

from slow_ribbon.formats import apart, dxf, geojson, ifc, mesh, pictures, points, svg

__all__ = ["apart", "dxf", "geojson", "ifc", "mesh", "pictures", "points", "svg"]
