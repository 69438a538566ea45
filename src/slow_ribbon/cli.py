"""The ``slow-ribbon`` command: serve, solve a job file, import a drawing, load the demo.

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
from typing import Any, get_args

from pydantic import ValidationError

from slow_ribbon.core.job import Job, job_from_text, job_to_text
from slow_ribbon.core.job.edits import AddLines, apply
from slow_ribbon.core.kernel import Refused, parse_length, plain
from slow_ribbon.core.solve import solve
from slow_ribbon.exports.paper import Printed
from slow_ribbon.exports.registry import WRITER_OF
from slow_ribbon.imports.options import Column, Decimal, Delimiter, Encoding, NoHeight

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
    solving.add_argument("--as", dest="form", choices=("json", "csv", "pdf"), default="csv")
    solving.set_defaults(action=_solve)

    for name, message in (
        ("import", "print a job file with the lines of a drawing, model or list of points"),
        ("import-dxf", "the same for DXF"),
    ):
        bringing = actions.add_parser(name, help=message)
        bringing.add_argument("file", type=Path, metavar="FILE")
        bringing.add_argument("--tolerance", default="1", help="join tolerance, mm (0.01 to 50; default 1)")
        bringing.add_argument("--layer", action="append", dest="layers", help="take only this layer; may be repeated")
        bringing.add_argument("--level", help="bring all to one height")
        bringing.add_argument("--unit", choices=("mm", "cm", "m", "in", "ft"), help="unit of the file's figures, whatever the file says")
        bringing.add_argument(
            "--degrees", action=argparse.BooleanOptionalAction, help="whether the coordinates of a map that does not say are degrees"
        )
        bringing.add_argument("--sharp", type=float, default=30.0, help="least angle of a mesh's edges, degrees (default 30)")
        bringing.add_argument("--cut-at", action="append", help="height of a mesh's level cut (default half way up); may be repeated")
        bringing.add_argument("--upright", choices=("y", "z"), help="axis of a mesh that points up")
        for said, ways, message in (
            ("--encoding", get_args(Encoding), "encoding of a list of points"),
            ("--delimiter", get_args(Delimiter), "what sets its columns apart"),
            ("--decimal", get_args(Decimal), "its decimal mark"),
        ):
            bringing.add_argument(said, choices=ways, help=message)
        names = ", ".join(get_args(Column))
        bringing.add_argument("--columns", metavar="NAMES", help=f"what its columns hold, with commas between: {names}")
        bringing.add_argument("--header", action=argparse.BooleanOptionalAction, help="whether the line above its first point names them")
        bringing.add_argument(
            "--no-height",
            choices=get_args(NoHeight),
            default="along",
            help="those without one: along the line (default), left out, at a level",
        )
        bringing.add_argument("--no-height-level", default="0", help="that level (default 0)")
        bringing.add_argument("--order", choices=("file", "code"), default="code", help="how points are joined (default by code)")
        bringing.add_argument("--storey", choices=("floor", "ceiling"), default="floor", help="level of an IFC model's lines")
        bringing.set_defaults(action=_import)

    exporting = actions.add_parser("export", help="print what a job file is handed over as")
    exporting.add_argument("job", type=Path, metavar="JOB.ribbon.json")
    exporting.add_argument("--as", dest="form", required=True, choices=tuple(WRITER_OF), help="what it is handed over as")
    exporting.add_argument("--paper", help="what it is printed on, where it has pages: a4, a3, letter or tabloid")
    exporting.set_defaults(action=_export)

    serving = actions.add_parser("serve", help="serve the application")
    serving.add_argument("--host", default="127.0.0.1", help="address to listen at; only this machine's own unless --allow-network")
    serving.add_argument(
        "--allow-network", action="store_true", help="listen at an address of the network: all who reach it can read and change every job"
    )
    serving.add_argument(
        "--allow-host", action="append", default=[], dest="hosts", metavar="NAME", help="answer under this name too; may be repeated"
    )
    serving.add_argument("--processes", type=int, default=1, help="service processes that share the work (default 1)")
    serving.add_argument("--backups", type=Path, metavar="FOLDER", help="make a backup every night into this folder, kept for 14 days")
    serving.add_argument("--no-request-log", action="store_true", help="log only what goes wrong, not a line of JSON for every request")
    serving.add_argument("--port", type=int, default=0, help="0 (default) takes a free one")
    serving.add_argument("--supplier", metavar="ADDRESS", help="http address of a supplier's catalogue; default $SLOW_RIBBON_SUPPLIER")
    _add_database(serving)
    serving.add_argument("--web", type=Path, default=_built_web(), help="folder of the built interface")
    serving.set_defaults(action=_serve)

    supplying = actions.add_parser("supplier", help="serve the simulated supplier's catalogue")
    supplying.add_argument("--port", type=int, default=0, help="0 (default) takes a free one")
    supplying.set_defaults(action=_supply)

    loading = actions.add_parser("load-demo", help="put the demo job into the database if it is not there")
    _add_database(loading)
    loading.set_defaults(action=_load_demo)

    backing = actions.add_parser("backup", help="write all jobs, revisions, originals and pictures into one file")
    backing.add_argument("file", type=Path, metavar="FILE")
    _add_database(backing)
    backing.set_defaults(action=_backup)

    restoring = actions.add_parser("restore", help="fill an empty database from a backup")
    restoring.add_argument("file", type=Path, metavar="FILE")
    _add_database(restoring)
    restoring.set_defaults(action=_restore)

    writing = actions.add_parser("demo", help="print the demo as a job file")
    writing.set_defaults(action=_demo)
    return parser


def _add_database(parser: argparse.ArgumentParser) -> None:
    message = f"postgresql:// address without a password; default ${DATABASE}, which may have one"
    parser.add_argument("--database", help=message)


def _built_web() -> Path:
    return Path(__file__).resolve().parents[2] / "web" / "dist"


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise Refused(f"{path} cannot be read: {error.strerror}.", "file", "unreadable") from error


def _solve(wanted: argparse.Namespace) -> int:
    from slow_ribbon.exports.csv import CUTTING_COLUMNS, SCHEDULE_COLUMNS, cutting_rows, lists_data, schedule_rows, to_csv

    solved = solve(job_from_text(_read(wanted.job)))
    if wanted.form == "pdf":
        sys.stdout.buffer.write(WRITER_OF["cutting-list.pdf"].written(solved))
    elif wanted.form == "json":
        print(json.dumps(lists_data(solved), indent=1, ensure_ascii=False))
    else:
        sys.stdout.write(to_csv(CUTTING_COLUMNS, cutting_rows(solved)).replace("\r\n", "\n"))
        sys.stdout.write("\n")
        sys.stdout.write(to_csv(SCHEDULE_COLUMNS, schedule_rows(solved)).replace("\r\n", "\n"))
    return 0


def _export(wanted: argparse.Namespace) -> int:
    writer = WRITER_OF[wanted.form]
    if wanted.paper is not None and wanted.paper not in writer.papers:
        papers = f"on {', '.join(writer.papers)}" if writer.papers else "without pages"
        raise Refused(f"{wanted.form} is written {papers}: choose another paper, or leave out --paper.", "--paper", "paper")
    sys.stdout.buffer.write(writer.written(solve(job_from_text(_read(wanted.job))), Printed(paper=wanted.paper) if wanted.paper else None))
    return 0


def _import(wanted: argparse.Namespace) -> int:
    from slow_ribbon.imports.drawing import site_origin, unread_words
    from slow_ribbon.imports.isolated import read_apart
    from slow_ribbon.imports.line_finding import find_lines, line_bodies, to_add
    from slow_ribbon.imports.options import Options

    tolerance = parse_length(wanted.tolerance)
    level = parse_length(wanted.level) if wanted.level is not None else None
    data = _read(wanted.file)
    cuts = tuple(parse_length(cut) for cut in wanted.cut_at) if wanted.cut_at else None
    try:
        options = Options(
            unit=wanted.unit, degrees=wanted.degrees, sharp=wanted.sharp, levels=cuts, upright=wanted.upright, encoding=wanted.encoding,
            delimiter=wanted.delimiter, decimal=wanted.decimal,
            columns=wanted.columns.split(",") if wanted.columns else None, header=wanted.header, order=wanted.order,
            no_height=wanted.no_height, no_height_level=parse_length(wanted.no_height_level), storey=wanted.storey,
        )  # fmt: skip
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise Refused(f"{first['msg']}.", ".".join(str(part) for part in first["loc"]), "option") from error
    drawing = read_apart(wanted.file, options)
    found = find_lines(drawing, wanted.layers, tolerance, level=level)
    origin = site_origin(drawing)
    bodies = line_bodies(found, None, origin, wanted.file.name, sha256(data).hexdigest())
    lines, notices = to_add(bodies)
    job = apply(Job(name=wanted.file.stem[:120] or "Drawing"), AddLines(lines=lines, origin=origin))
    for note in (*drawing.notes, *notices):
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

    address = _database(wanted)
    engine = connect(address)
    try:
        migrate(engine)
    except OperationalError as error:
        raise _no_answer(error) from error
    finally:
        engine.dispose()
    return address


def _database(wanted: argparse.Namespace) -> str:
    from sqlalchemy.engine import make_url
    from sqlalchemy.exc import ArgumentError

    given = wanted.database
    try:
        if given and make_url(given).password:
            raise Refused(
                f"Other users of this machine can read what stands on a command line: give an address with a password in ${DATABASE}.",
                "database",
                "database",
            )
    except ArgumentError:
        # That it is no address is reported where it is used.
        pass
    address = given or os.environ.get(DATABASE)
    if not address:
        raise Refused(f"No database is named: set {DATABASE} or give --database. script/demo does it all.", "database", "database")
    return str(address)


def _backup(wanted: argparse.Namespace) -> int:
    from slow_ribbon.store.backup import back_up

    back_up(_ready_database(wanted), wanted.file)
    print(f"All of it is in {wanted.file} ({wanted.file.stat().st_size / 1e6:.1f} MB).")
    return 0


def _restore(wanted: argparse.Namespace) -> int:
    from sqlalchemy.exc import OperationalError

    from slow_ribbon.store.backup import restore

    try:
        restore(_database(wanted), wanted.file)
    except OperationalError as error:
        raise _no_answer(error) from error
    print(f"Restored from {wanted.file}.")
    return 0


def _no_answer(error: Any) -> Refused:
    why = str(error.orig).strip().splitlines()[0]
    return Refused(f"The database does not answer: {why}. Start it (script/demo starts its own) and try again.", "database", "database")


def _load_demo(wanted: argparse.Namespace) -> int:
    from slow_ribbon.core.solve import solve
    from slow_ribbon.demo import DEMO_ID, HALL_ID, demo_files, ferry_house, hall_drawing, hall_file
    from slow_ribbon.store.database import connect
    from slow_ribbon.store.jobs import Jobs
    from slow_ribbon.store.records import Changed, Unknown

    jobs = Jobs(connect(_ready_database(wanted)))
    for name, data in {**demo_files(), hall_file(1): hall_drawing(1)}.items():
        jobs.originals.keep(sha256(data).hexdigest(), name, data)
    for id, job in ((HALL_ID, hall_from_drawing()), (DEMO_ID, ferry_house())):
        try:
            opened = jobs.open(id)
        except Unknown:
            jobs.add(job, "loaded the demo", id=id)
            jobs.set_checks(id, 1, *solve(job).severities())
            continue
        # A demo that nobody has changed grows with the program; a changed one is somebody's work.
        if opened.revision == 1 and opened.job != job:
            jobs.change(id, 1, lambda _, was, job=job: None if was else Changed(job, [], ["brought the demo up to date"]))  # type: ignore[misc]  # no type is inferred for it
    return 0


def hall_from_drawing() -> Job:
    """Return the demo's second job, whose lines are read from the drawing as a person's would be."""
    from tempfile import TemporaryDirectory

    from slow_ribbon.demo import hall_drawing, hall_file, hall_job
    from slow_ribbon.imports.dxf.read_dxf import read_dxf
    from slow_ribbon.imports.line_finding import find_lines, line_bodies

    data = hall_drawing(1)
    with TemporaryDirectory() as folder:
        path = Path(folder) / "hall.dxf"
        path.write_bytes(data)
        found = find_lines(read_dxf(path), None, 1.0)
    return hall_job(line_bodies(found, None, (0.0, 0.0, 0.0), hall_file(1), sha256(data).hexdigest()))


def _supply(wanted: argparse.Namespace) -> int:
    import uvicorn

    from slow_ribbon.supplier.app import create_supplier

    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    try:
        listener.bind(("127.0.0.1", wanted.port))
    except (OSError, OverflowError) as error:
        raise Refused(f"Port {wanted.port} cannot be used: {error}. Give another with --port.", "port", "port") from error
    listener.listen(64)
    print(f"The supplier's catalogue is at http://127.0.0.1:{listener.getsockname()[1]}", flush=True)
    uvicorn.Server(uvicorn.Config(create_supplier(), log_level="warning")).run([listener])
    return 0


def _serve(wanted: argparse.Namespace) -> int:
    from slow_ribbon.service.guard import is_loopback
    from slow_ribbon.service.serving import Served, serve

    if not is_loopback(wanted.host) and not wanted.allow_network:
        raise Refused(
            f"{wanted.host} can be reached from other machines, and there is no sign-in yet: everyone there could read and change every "
            "job. Say --allow-network if that is meant.",
            "host",
            "network",
        )
    if not 1 <= wanted.processes <= 64:
        raise Refused("There can be 1 to 64 processes.", "processes", "processes")
    if wanted.supplier:
        # So that every process of the service knows it.
        os.environ["SLOW_RIBBON_SUPPLIER"] = wanted.supplier
    database = _ready_database(wanted)
    if not (wanted.web / "index.html").is_file():
        raise Refused(f"The interface is not built: {wanted.web} holds no index.html. script/setup builds it.", "web", "web")
    # Accepted connections take the protocol from the listener; without it they would wait before each small answer.
    listener = socket.socket(socket.AF_INET6 if ":" in wanted.host else socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((wanted.host, wanted.port))
    except (OSError, OverflowError) as error:
        raise Refused(f"Port {wanted.port} on {wanted.host} cannot be used: {error}. Give another with --port.", "port", "port") from error
    # A client that connects as soon as the address is printed waits until the application answers, and is not turned away.
    listener.listen(512)
    host, port = listener.getsockname()[:2]
    shown = f"[{host}]" if ":" in host else host
    print(f"Slow Ribbon is at http://{shown}:{port}/  (Ctrl-C stops it)", flush=True)
    hosts = [*wanted.hosts, *([] if is_loopback(wanted.host) else [host, socket.gethostname()])]
    serve(Served(database, str(wanted.web), hosts, str(wanted.backups or ""), not wanted.no_request_log), listener, wanted.processes)
    return 0


if __name__ == "__main__":
    sys.exit(main())
