"""The ``slow-ribbon`` command: serve, solve a job file, bring in a drawing, load the demo.

A fault in the input ends with one plain message on standard error and exit status 2.
"""

from __future__ import annotations

import argparse
import json
import os
import socket
import sys
from hashlib import sha256
from pathlib import Path

from pydantic import ValidationError

from slow_ribbon.core.apply import apply
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.job import Job, job_from_text, job_to_text
from slow_ribbon.core.line_edits import AddLines
from slow_ribbon.core.solve import solve
from slow_ribbon.core.told import plain
from slow_ribbon.core.units import parse_length

DATABASE = "SLOW_RIBBON_DATABASE"


def main(arguments: list[str] | None = None) -> int:
    """Run the command and return its exit status."""
    wanted = _parser().parse_args(arguments)
    try:
        status: int = wanted.action(wanted)
        sys.stdout.flush()
        return status
    except Refused as refused:
        place = f" [{refused.where}]" if refused.where else ""
        print(f"slow-ribbon: {refused}{place}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        # The reader of the output has gone; that is its right.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="slow-ribbon", description="Sections run along lines: mitred corners, cut lengths, item counts.")
    actions = parser.add_subparsers(required=True, metavar="ACTION")

    solving = actions.add_parser("solve", help="print the cutting list and schedule of a job file")
    solving.add_argument("job", type=Path, metavar="JOB.ribbon.json")
    solving.add_argument("--as", dest="form", choices=("json", "csv"), default="csv")
    solving.set_defaults(action=_solve)

    for name, told in (
        ("import", "print a job file with the lines of a drawing, model or list of points"),
        ("import-dxf", "the same for DXF"),
    ):
        bringing = actions.add_parser(name, help=told)
        bringing.add_argument("file", type=Path, metavar="FILE")
        bringing.add_argument("--tolerance", default="1", help="join tolerance, mm (0.01 to 50; default 1)")
        bringing.add_argument("--layer", action="append", dest="layers", help="take only this layer; may be repeated")
        bringing.add_argument("--level", help="bring all to one height")
        bringing.add_argument("--unit", choices=("mm", "cm", "m", "in", "ft"), help="unit of a file that does not say")
        bringing.add_argument("--sharp", type=float, default=30.0, help="least angle of a mesh's edges, degrees (default 30)")
        bringing.add_argument("--cut-at", help="height of a mesh's level cut (default half way up)")
        bringing.add_argument("--upright", choices=("y", "z"), help="axis of a mesh that points up")
        bringing.add_argument("--order", choices=("file", "code"), default="code", help="how points are joined (default by code)")
        bringing.add_argument("--storey", choices=("floor", "ceiling"), default="floor", help="level of an IFC model's lines")
        bringing.set_defaults(action=_import)

    serving = actions.add_parser("serve", help="serve the application")
    serving.add_argument("--host", default="127.0.0.1")
    serving.add_argument("--port", type=int, default=0, help="0 (default) takes a free one")
    serving.add_argument("--database", default=os.environ.get(DATABASE), help=f"postgresql:// address; default ${DATABASE}")
    serving.add_argument("--web", type=Path, default=_built_web(), help="folder of the built interface")
    serving.set_defaults(action=_serve)

    loading = actions.add_parser("load-demo", help="put the demo job into the database if it is not there")
    loading.add_argument("--database", default=os.environ.get(DATABASE), help=f"postgresql:// address; default ${DATABASE}")
    loading.set_defaults(action=_load_demo)

    writing = actions.add_parser("demo", help="print the demo as a job file")
    writing.set_defaults(action=_demo)
    return parser


def _built_web() -> Path:
    return Path(__file__).resolve().parents[2] / "web" / "dist"


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise Refused(f"{path} cannot be read: {error.strerror}.", "file", "unreadable") from error


def _solve(wanted: argparse.Namespace) -> int:
    from slow_ribbon.formats.lists import CUTTING_COLUMNS, SCHEDULE_COLUMNS, cutting_rows, lists_data, schedule_rows, to_csv

    solved = solve(job_from_text(_read(wanted.job)))
    if wanted.form == "json":
        print(json.dumps(lists_data(solved), indent=1, ensure_ascii=False))
    else:
        sys.stdout.write(to_csv(CUTTING_COLUMNS, cutting_rows(solved)).replace("\r\n", "\n"))
        sys.stdout.write("\n")
        sys.stdout.write(to_csv(SCHEDULE_COLUMNS, schedule_rows(solved)).replace("\r\n", "\n"))
    return 0


def _import(wanted: argparse.Namespace) -> int:
    from slow_ribbon.formats.apart import read_apart
    from slow_ribbon.formats.drawing import find_lines, line_bodies, site_origin, unread_words
    from slow_ribbon.formats.options import Options

    tolerance = parse_length(wanted.tolerance)
    level = parse_length(wanted.level) if wanted.level is not None else None
    data = _read(wanted.file)
    cut = parse_length(wanted.cut_at) if wanted.cut_at is not None else None
    try:
        options = Options(unit=wanted.unit, sharp=wanted.sharp, level=cut, upright=wanted.upright, order=wanted.order, storey=wanted.storey)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise Refused(f"{first['msg']}.", ".".join(str(part) for part in first["loc"]), "option") from error
    drawing = read_apart(wanted.file, options)
    found = find_lines(drawing, wanted.layers, tolerance, level=level)
    origin = site_origin(drawing)
    bodies = line_bodies(found, None, origin, wanted.file.name, sha256(data).hexdigest())
    job = apply(Job(name=wanted.file.stem[:120] or "Drawing"), AddLines(lines=tuple(bodies), origin=origin))
    for note in drawing.notes:
        print(f"slow-ribbon: {plain(note)}", file=sys.stderr)
    if drawing.unread:
        print(f"slow-ribbon: not read: {unread_words(drawing)}", file=sys.stderr)
    sys.stdout.write(job_to_text(job))
    return 0


def _demo(_: argparse.Namespace) -> int:
    from slow_ribbon.demo import ferry_house

    sys.stdout.write(job_to_text(ferry_house()))
    return 0


def _ready_database(wanted: argparse.Namespace) -> str:
    """Return the database's address once it answers and its tables are up to date."""
    from sqlalchemy.exc import OperationalError

    from slow_ribbon.store.database import connect, migrate

    if not wanted.database:
        raise Refused(f"No database is named: set {DATABASE} or give --database. script/demo does it all.", "database", "database")
    engine = connect(wanted.database)
    try:
        migrate(engine)
    except OperationalError as error:
        why = str(error.orig).strip().splitlines()[0]
        raise Refused(
            f"The database does not answer: {why}. Start it (script/demo starts its own) and try again.", "database", "database"
        ) from error
    finally:
        engine.dispose()
    return str(wanted.database)


def _load_demo(wanted: argparse.Namespace) -> int:
    from slow_ribbon.demo import DEMO_ID, demo_files, ferry_house
    from slow_ribbon.store.database import connect
    from slow_ribbon.store.jobs import Changed, Jobs, Unknown

    jobs = Jobs(connect(_ready_database(wanted)))
    for name, data in demo_files().items():
        jobs.keep_original(sha256(data).hexdigest(), name, data)
    job = ferry_house()
    try:
        opened = jobs.open(DEMO_ID)
    except Unknown:
        jobs.add(job, "loaded the demo", id=DEMO_ID)
        return 0
    # A demo that nobody has changed grows with the program; a changed one is somebody's work.
    if opened.revision == 1 and opened.job != job:
        jobs.change(DEMO_ID, 1, lambda _, was: None if was else Changed(job, [], ["brought the demo up to date"]))
    return 0


def _serve(wanted: argparse.Namespace) -> int:
    import uvicorn

    from slow_ribbon.service.app import create_app

    database = _ready_database(wanted)
    if not (wanted.web / "index.html").is_file():
        raise Refused(f"The interface is not built: {wanted.web} holds no index.html. script/setup builds it.", "web", "web")
    app = create_app(database, wanted.web)
    listener = socket.socket(socket.AF_INET6 if ":" in wanted.host else socket.AF_INET)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((wanted.host, wanted.port))
    except (OSError, OverflowError) as error:
        raise Refused(f"Port {wanted.port} on {wanted.host} cannot be used: {error}. Give another with --port.", "port", "port") from error
    # Who comes as soon as the address is told waits until the application answers, and is not turned away.
    listener.listen(128)
    host, port = listener.getsockname()[:2]
    print(f"Slow Ribbon is at http://{host}:{port}/  (Ctrl-C stops it)", flush=True)
    config = uvicorn.Config(app, log_level="warning", access_log=False, timeout_graceful_shutdown=5)
    uvicorn.Server(config).run(sockets=[listener])
    return 0


if __name__ == "__main__":
    sys.exit(main())
