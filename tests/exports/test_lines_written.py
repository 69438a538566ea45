"""The lines and points of a job as they are handed over, read by libraries that share no code with ours, and by our own readers."""

from __future__ import annotations

import csv
import io
import math
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from ezdxf import path as dxf_path
from ezdxf.entities.spline import Spline
from svgpathtools import svg2paths2

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.solve.results import Solved
from slow_ribbon.core.solve.solver import solve
from slow_ribbon.demo import ferry_house
from slow_ribbon.exports.dxf import lines_dxf
from slow_ribbon.exports.points import points_csv
from slow_ribbon.exports.registry import WRITERS
from slow_ribbon.exports.svg import lines_svg
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.registry import READER_OF

ODD = 'Rail <1> "a|b"; c:d'


@pytest.fixture(scope="module")
def solved() -> Solved:
    """The demo, and beside it one line of every kind of leg, with names that a format might not hold, on a site far away."""
    from pydantic import TypeAdapter

    def leg(kind: str, **fields: Any) -> dict[str, Any]:
        return {"kind": kind, **fields}

    legs = {
        "arc down": [leg("straight", to=(0, -900, 0)), leg("arc", to=(800, -1700, 0), via=(234.31457505, -1465.68542495, 0))],
        "tilted": [leg("arc", to=(1000, 0, 0), via=(500, 300, 400))],
        "curve": [leg("curve", to=(3000, 0, 0), controls=[(0, 900, 0), (2000, -700, 300)])],
        "rational": [leg("curve", to=(1000, 1000, 0), controls=[(1000, 0, 0)], weights=[1, math.sqrt(0.5), 1])],
        "through": [leg("through", to=(4000, 0, 0), points=[{"at": (1000, 500, 0)}, {"at": (2500, -300, 0), "sharp": True}])],
        "helix": [leg("helix", to=(-500, 0, 900), centre=(0, 0, 0), turn=180)],
        "cord": [leg("cord", to=(5000, 0, 400), sag=600)],
    }
    lines: list[dict[str, Any]] = [
        {"name": ODD if name == "cord" else "Rail", "start": (500, 0, 0) if name == "helix" else (0, 0, 0), "legs": said}
        for name, said in legs.items()
    ]
    square = [leg("straight", to=to, round=200) for to in ((9000, 0, 0), (9000, 2000, 0), (7000, 2000, 0), (7000, 0, 0))]
    lines.append({"name": "rail", "start": (7000, 0, 0), "legs": square, "closed": True})
    edit = {"kind": "add_lines", "lines": lines, "origin": (431_000_000.0, 268_500_000.0, 12_000.0)}
    return solve(apply_all(Job(name="Site & more"), [TypeAdapter(AnyEdit).validate_python(edit)]).job)


def lengths(job: Job) -> dict[str, float]:
    return {line.id: course_of(line).length for line in job.lines}


def test_dxf_is_read_by_ezdxf_as_the_same_curves_where_they_lie_on_the_site(solved: Solved) -> None:
    document = ezdxf.read(io.StringIO(lines_dxf(solved).decode()))
    assert document.header["$INSUNITS"] == 4
    assert len(document.audit().errors) == 0
    origin = np.array(solved.job.origin)
    layers = [layer.dxf.name for layer in document.layers if layer.dxf.name.lower() not in ("0", "defpoints")]
    assert len(layers) == len({name.lower() for name in layers}) == len(solved.job.lines)
    for line, layer in zip(solved.job.lines, layers, strict=True):
        course = course_of(line)
        walked = np.concatenate([course.points_at(np.linspace(0, course.length * (1 - 1e-12), 4000))])
        length = 0.0
        for entity in document.modelspace().query(f'*[layer=="{layer}"]'):
            # Of a rational spline a path in ezdxf is an approximation; the spline's own points are not.
            drawn = entity.flattening(0.001) if isinstance(entity, Spline) else dxf_path.make_path(entity).flattening(0.001)
            points = np.array([tuple(point) for point in drawn]) - origin
            length += float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
            step = float(np.linalg.norm(np.diff(walked, axis=0), axis=1).max())
            away = np.linalg.norm(points[::7, None] - walked[None], axis=2).min(axis=1)
            assert away.max() <= step / 2 + 0.1, (layer, entity.dxftype())
        assert length == pytest.approx(course.length, rel=3e-4), layer


def test_svg_is_read_by_svgpathtools_to_scale(solved: Solved) -> None:
    written = lines_svg(solved)
    paths, attributes, head = svg2paths2(io.StringIO(written.decode()))
    width, height = (float(head[name].removesuffix("mm")) for name in ("width", "height"))
    assert [width, height] == [float(value) for value in head["viewBox"].split()[2:]]
    by_id = {one["id"]: path for one, path in zip(attributes, paths, strict=True)}
    for line in solved.job.lines:
        course = course_of(line)
        points = course.points_at(np.linspace(0, course.length * (1 - 1e-12), 20_000))[:, :2]
        if line.closed:
            points = np.vstack([points, points[:1]])
        on_plan = float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
        assert by_id[line.id].length(error=1e-6) == pytest.approx(on_plan, rel=3e-4), line.name
        begin = by_id[line.id].point(0)
        assert (begin.real, -begin.imag) == pytest.approx(tuple(points[0]), abs=1e-5)


@pytest.mark.parametrize("form", ["dxf", "svg"])
def test_our_own_readers_bring_the_lines_back(solved: Solved, form: str, tmp_path: Path) -> None:
    for job in (solved.job, ferry_house()):
        again = solve(job)
        file = tmp_path / f"lines.{form}"
        file.write_bytes(lines_dxf(again) if form == "dxf" else lines_svg(again))
        drawing = READER_OF[form].read(file, form, Options())
        wanted = sum(course_of(line).length for line in job.lines)
        if form == "svg":
            flat = [course_of(line).points_at(np.linspace(0, course_of(line).length * (1 - 1e-12), 20_000))[:, :2] for line in job.lines]
            wanted = sum(float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum()) for points in flat)
        found = 0.0
        for number, (begin, end) in enumerate(zip(drawing.begins, drawing.ends, strict=True)):
            curve = drawing.curves.get(number)
            at = (float(begin[0]), float(begin[1]), float(begin[2]))
            found += float(np.linalg.norm(end - begin)) if curve is None else sum(span.length for span in curve.spans(at))
        assert found == pytest.approx(wanted, rel=3e-4)


def test_points_are_in_metres_on_the_site_and_read_back(tmp_path: Path) -> None:
    job = ferry_house()
    again = solve(job)
    rows = list(csv.DictReader(io.StringIO(points_csv(again).decode())))
    items = sum(len(row.out.chainages) for row in again.rows.values())
    numbers = [row["number"] for row in rows]
    assert len(set(numbers)) == len(numbers)
    posts = job.rows[0]
    places = [row for row in rows if row["code"] == posts.name]
    origin = np.array(job.origin)
    answer = np.array([[float(row[axis]) for axis in ("east", "north", "height")] for row in places]) * 1000 - origin
    assert answer == pytest.approx(again.rows[posts.id].out.positions, abs=1e-3)
    assert len(rows) > items + 2 * len(job.lines) - 1
    file = tmp_path / "points.csv"
    file.write_bytes(points_csv(again))
    drawing = READER_OF["csv"].read(file, "csv", Options(unit="m"))
    assert len(drawing.points) == len(rows)


def test_an_empty_job_can_be_handed_over_as_anything() -> None:
    nothing = solve(Job(name="Empty"))
    for writer in WRITERS:
        assert writer.written(nothing), writer.key
