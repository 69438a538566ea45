"""What is written: CSV, glTF."""

from __future__ import annotations

import csv
import io
import json
import math
import struct
from collections import Counter
from types import SimpleNamespace
from typing import Any
from xml.etree import ElementTree

import ezdxf
import numpy as np
import openpyxl
import pytest
import trimesh
from ezdxf.entities import LWPolyline
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import CutRow, cutting_list, patterns_of, schedule_entries, templates_of
from slow_ribbon.core.job.derived.derive import derive_again
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit
from slow_ribbon.core.job.edits.apply import apply, apply_all
from slow_ribbon.core.job.edits.runs import PlacingChanges, RunChanges, SetPlacing, SetRun
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines.made.panes import pane_laid
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.split_join import moved_by
from slow_ribbon.core.lines.transform import turning
from slow_ribbon.core.rows.items import ITEMS, BroughtItem, Part, TypicalItem
from slow_ribbon.core.runs.placement.placing import FacingSide
from slow_ribbon.core.solve import solve, standing_lines, standing_runs
from slow_ribbon.demo import ferry_house
from slow_ribbon.exports.csv import CUTTING_COLUMNS, SCHEDULE_COLUMNS, cutting_rows, items_csv, schedule_rows, to_csv
from slow_ribbon.exports.glb import item_surface, job_glb
from slow_ribbon.exports.gltf import surface_glb
from slow_ribbon.exports.patterns import patterns_dxf, patterns_svg
from slow_ribbon.exports.xlsx import cutting_xlsx

read_edit = TypeAdapter(AnyEdit).validate_python


def read_csv(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


def test_the_cutting_list_as_csv() -> None:
    rows = read_csv(to_csv(CUTTING_COLUMNS, cutting_rows(solve(ferry_house()))))
    assert tuple(rows[0]) == CUTTING_COLUMNS
    cornice = next(row for row in rows if row["tags"] == "C1")
    assert cornice["section"] == "Cornice, sprung 38°"
    # A mitre at its beginning, a scarf at its end; what it is of, jointed of two parts, is as long as the wall.
    assert (cornice["begin_mitre_deg"], cornice["begin_bevel_deg"]) == ("31.619", "-33.863")
    assert (cornice["begin_joint"], cornice["end_joint"]) == ("", "scarf 1 in 8")
    assert sum(float(row["line_length_mm"]) for row in rows if row["tags"] in ("C1", "C2")) == pytest.approx(5900)
    assert sum(int(row["quantity"]) for row in rows) == 370
    rail = next(row for row in rows if row["tags"] == "SE7")
    assert cornice["bend"] == ""
    assert rail["bend"] == "straight 3800.000; arc 10681.415 bends 180.000 at R 3400.000 upward; straight 2400.000"
    assert sum(float(part.split()[1]) for part in rail["bend"].split("; ")) == pytest.approx(float(rail["line_length_mm"]), abs=0.002)


def test_the_schedule_as_csv_adds_up() -> None:
    rows = read_csv(to_csv(SCHEDULE_COLUMNS, schedule_rows(solve(ferry_house()))))
    total = next(row for row in rows if row["kind"] == "job")
    for kind in ("run", "section"):
        parts = [row for row in rows if row["kind"] == kind]
        assert sum(float(row["bar_length_mm"]) for row in parts) == pytest.approx(float(total["bar_length_mm"]), abs=0.01)
    assert int(total["items"]) == sum(int(row["items"]) for row in rows if row["kind"] == "row")


def test_names_cannot_run_as_formulas_in_a_spreadsheet() -> None:
    job = apply(ferry_house(), SetRun(run="R12", changes=RunChanges(name="=1+1")))
    assert read_csv(to_csv(CUTTING_COLUMNS, cutting_rows(solve(job))))[0]["run"] == "'=1+1"


def test_the_model_is_glTF_that_trimesh_reads_true_to_size() -> None:  # noqa: N802  # glTF is written so
    solved = solve(ferry_house())
    data = job_glb(solved)
    magic, version, length = struct.unpack("<4sII", data[:12])
    assert (magic, version, length) == (b"glTF", 2, len(data))
    scene = trimesh.load_scene(io.BytesIO(data), file_type="glb")
    # Metres, y up: the highest thing is the crown of the tallest tree.
    trees = next(row for row in solved.job.rows if row.name == "Trees of the bed")
    assert scene.bounds[1][1] == pytest.approx(4.2 * solved.rows[trees.id].out.sizes.max(), abs=1e-4)
    # A typical among the items of a row is there by what it is made of.
    solid = [row for row in solved.job.rows if row.item.parts]
    stood = len(list(standing_runs(solved))) + sum(solved.rows[row.id].out.count for row in solid)
    assert len(scene.graph.nodes_geometry) == stood + sum(pane_laid(line) is not None for line, _ in standing_lines(solved))
    # One whose pieces all meet in mitres: others are solids apart that touch.
    rail = solved.runs["R30"]
    found = next(part for name, part in scene.geometry.items() if name.startswith("Dado rail"))
    found.merge_vertices(merge_norm=True)
    assert found.is_watertight
    # Its round bead is drawn in chords.
    assert found.volume == pytest.approx(rail.cuts.volumes.sum(), rel=1e-3)


def test_meshes_for_the_interface_keep_millimetres_near_their_origin() -> None:
    job = ferry_house()
    left = [SetPlacing(runs=(run.id,), changes=PlacingChanges(facing=FacingSide(kind="left"))) for run in job.runs]
    job = apply_all(job, left).job
    far, _ = derive_again(job, job.model_copy(update={"lines": tuple(_moved(line, 5e8) for line in job.lines)}))
    for one, other in zip(solve(job).runs.values(), solve(far).runs.values(), strict=True):
        near, away = one.surface(), other.surface()
        assert away.vertices == pytest.approx(near.vertices, abs=1e-5)
        assert np.abs(away.vertices).max() < 40_000
    data = surface_glb(solve(job).runs["R12"].surface(), "R12")
    document = json.loads(data[20 : 20 + struct.unpack("<I", data[12:16])[0]])
    assert document["meshes"][0]["extras"]["pieces"][0] == 0


def _moved(line: Line, by: float) -> Line:
    return moved_by(line, turning(0.0, (0, 0, 0), (by, by, 0)))


def test_items_are_sound_solids_standing_on_their_foot() -> None:
    for kind in ITEMS:
        if kind is TypicalItem:
            continue
        brought = {"content": "0" * 64, "called": "Lantern", "own": (400, 250, 500), "filled": 1.0, "front": 90}
        item = kind.model_validate({"height": 900, **(brought if kind is BroughtItem else {})})
        solids = [_solid(part) for part in item.parts]
        assert all(solid.is_watertight and solid.volume > 0 for solid in solids), kind.words
        # Round parts are polygons there, inside of what they stand for.
        assert sum(solid.volume for solid in solids) == pytest.approx(item.volume, rel=0.02)
        low, high = (way([solid.bounds for solid in solids], axis=(0, 1)) for way in (np.min, np.max))
        assert [*low, *high] == pytest.approx(
            [*(-side / 2 for side in item.sides), 0, *(side / 2 for side in item.sides), item.whole_height], abs=0.3
        )


def _solid(part: Part) -> trimesh.Trimesh:
    alone: Any = SimpleNamespace(parts=(part,))
    surface = item_surface(alone)
    solid = trimesh.Trimesh(surface.vertices, surface.faces, process=False)
    solid.merge_vertices(merge_norm=True)
    return solid


def _leaves(row: CutRow) -> int:
    """How many leaves a piece is laminated of; each is reported in a line of its own."""
    return 0 if row.curvature is None else len(row.curvature.leaves)


def test_the_cutting_list_as_a_workbook_holds_numbers() -> None:
    """Read back by openpyxl, which shares no code with what wrote it."""
    solved = solve(apply(ferry_house(), SetRun(run="R12", changes=RunChanges(name="=1+1"))))
    book = openpyxl.load_workbook(io.BytesIO(cutting_xlsx(solved)))
    rows = cutting_list(solved)
    assert book.sheetnames[-3:] == ["Totals", "Bends", "Items"]
    assert book["Items"].max_row - 1 == sum(len(row.out.chainages) for row in solved.rows.values())
    listed = []
    for sheet in book.worksheets[:-3]:
        heads = [cell.value for cell in sheet[1]]
        lines = sheet.iter_rows(min_row=2, values_only=True)
        listed += [dict(zip(heads, line, strict=True)) for line in lines if isinstance(line[3], (int, float))]
        # The sum is a formula over what stands above it.
        last = sheet.max_row
        assert str(sheet.cell(last, heads.index("Long point, mm") + 1).value).startswith("=SUMPRODUCT(E2:")
    assert len(listed) == len(rows)
    assert {row["Run"] for row in listed} == {run.name for run in solved.job.runs}
    for row in rows:
        (line,) = [line for line in listed if line["Tags"] == ", ".join(row.tags)]
        assert line["Quantity"] == row.quantity
        answer = {"Long point, mm": row.long_point, "Short point, mm": row.short_point, "Begins: bevel, °": row.begin.bevel}
        assert {head: line[head] for head in answer} == pytest.approx(answer)
    totals = [line for line in book["Totals"].iter_rows(min_row=2, values_only=True) if line[0] == "job"]
    assert totals[0][2] == sum(row.quantity for row in rows)
    assert len(list(book["Bends"].iter_rows(min_row=2))) == sum(len(row.bends) + _leaves(row) for row in rows)
    data_only = openpyxl.load_workbook(io.BytesIO(cutting_xlsx(solved)), data_only=True)
    sheet = data_only[book.sheetnames[0]]
    figures = [(line[3], line[4]) for line in sheet.iter_rows(min_row=2, values_only=True) if isinstance(line[3], (int, float))]
    assert sheet.cell(sheet.max_row, 5).value == pytest.approx(sum(count * length for count, length in figures))


def test_patterns_are_written_at_full_size_and_alike_as_svg_and_dxf() -> None:
    solved = solve(ferry_house())
    ends, templates = patterns_of(solved), templates_of(solved)
    found = [*ends, *templates]
    drawing = ezdxf.read(io.StringIO(patterns_dxf(solved).decode()))
    assert not drawing.audit().errors
    tree = ElementTree.fromstring(patterns_svg(solved).decode())
    assert tree.get("width", "").removesuffix("mm") == tree.get("viewBox", "").split()[2]
    for layer, kind in (("FACE", "face"), ("BACK", "back"), ("PIECE", "piece")):
        drawn = drawing.modelspace().query(f'LWPOLYLINE[layer=="{layer}"]')
        from_dxf = [np.array(list(one.vertices())) for one in drawn if isinstance(one, LWPolyline)]
        paths = [one.get("d", "") for one in tree.iter("{http://www.w3.org/2000/svg}path") if one.get("class") == kind]
        from_svg = [np.array([list(map(float, place.split())) for place in path[1:].split("L")]) for path in paths]
        assert len(from_dxf) == len(from_svg) == len([one for one in found if kind != "back" or one.back is not None])
        for one, other in zip(from_dxf, from_svg, strict=True):
            # Down in the one is up in the other, and both are true to 0.1 µm; where on the sheet does not matter.
            assert np.ptp(one, axis=0) == pytest.approx(np.ptp(other, axis=0), abs=2e-4)
            assert one[:, 0] == pytest.approx(other[:, 0], abs=1e-4)
    # Every end that is shaped has its pattern, and nothing else has; the bench's laminated capping has its template, as have its front's
    # facets and all returns.
    assert {(one.run, one.words.split(",")[0]) for one in templates} == {
        ("Fence capping", "return"), ("Bench front", "facet"), ("Bench capping", "as it comes from the form"),
        ("Goods ramp rail", "return"),
    }  # fmt: skip
    assert sum(len(one.tags) for one in ends) == sum(len(run.cuts.shaped) for run in solved.runs.values())
    assert b"Nothing of this job needs a pattern" in patterns_svg(solve(Job(name="Nothing")))


def test_every_item_is_listed_with_its_place_and_counted_by_its_kind() -> None:
    """Against the nodes of the glTF, read by trimesh: the same places, and the same axes, whose bearings and tilts are taken from them."""
    job = apply(ferry_house(), read_edit({"kind": "set_row", "row": "I20", "changes": {"turn": {"more": 7, "about": "along", "by": 30}}}))
    solved = solve(job)
    listed = list(csv.DictReader(io.StringIO(items_csv(solved).decode())))
    scene: Any = trimesh.load(io.BytesIO(job_glb(solved)), file_type="glb")
    upright = np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]])
    for line in listed:
        if line["row"] == "Frames of the walk":
            # They are there by what they are made of.
            continue
        there, _ = scene.graph[line["number"]]
        axes = upright @ there[:3, :3]
        axes /= np.linalg.norm(axes, axis=0)
        place = upright @ there[:3, 3] + np.array(job.origin) / 1000
        assert [float(line[name]) for name in ("east m", "north m", "level m")] == pytest.approx(place, abs=1e-5)
        assert float(line["tilt deg"]) == pytest.approx(math.degrees(math.acos(min(1.0, axes[2, 2]))), abs=1e-3)
        if float(line["tilt deg"]) == 0:
            assert (float(line["bearing deg"]) - 90 + math.degrees(math.atan2(axes[1, 0], axes[0, 0])) + 180) % 360 == pytest.approx(
                180, abs=1e-3
            )
    counted = {entry.name: entry.items or 0 for entry in schedule_entries(solved) if entry.kind == "item"}
    assert sum(counted.values()) == len(listed)
    assert Counter(line["item"] for line in listed) == {plain(name): count for name, count in counted.items()}
