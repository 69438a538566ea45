"""All readers with their libraries, loaded once for the processes that are forked to read one file each."""

from slow_ribbon.imports import geojson, ifc, isolated, mesh, pictures
from slow_ribbon.imports.dxf import read_dxf
from slow_ribbon.imports.points import read_points
from slow_ribbon.imports.svg import read_svg

__all__ = ["geojson", "ifc", "isolated", "mesh", "pictures", "read_dxf", "read_points", "read_svg"]
