"""Writes the files that are generated from the code, or checks that they are up to date.

``python -m slow_ribbon.generate [--check]``: the JSON Schema of the job file, the OpenAPI
document of the service, the interface's types made from it, the tones of materials, and the
demo's drawings.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from slow_ribbon.core.job import job_schema
from slow_ribbon.core.sections import TONES, SectionFile
from slow_ribbon.demo import hall_drawing, hall_file
from slow_ribbon.service.app import create_app

ROOT = Path(__file__).resolve().parents[2]


def generated() -> dict[Path, str]:
    """Return the contents of each generated file."""
    schema = json.dumps(job_schema(), indent=1, ensure_ascii=False) + "\n"
    openapi = json.dumps(create_app("postgresql://nobody@127.0.0.1:1/nothing").openapi(), indent=1, ensure_ascii=False) + "\n"
    with tempfile.TemporaryDirectory() as folder:
        source, types = Path(folder) / "openapi.json", Path(folder) / "schema.ts"
        source.write_text(openapi)
        tool = ROOT / "web" / "node_modules" / ".bin" / "openapi-typescript"
        subprocess.run([str(tool), str(source), "-o", str(types)], check=True, capture_output=True, cwd=ROOT / "web")
        client = types.read_text()
    api = ROOT / "web" / "src" / "api"
    examples = ROOT / "docs" / "examples"
    drawings = {examples / hall_file(issue): hall_drawing(issue).decode("ascii") for issue in (1, 2)}
    ours = {api / "openapi.json": openapi, api / "schema.ts": client, api / "materials.ts": _materials()}
    sections = json.dumps(SectionFile.model_json_schema(), indent=1, ensure_ascii=False) + "\n"
    schemas = {ROOT / "docs" / "job.schema.json": schema, ROOT / "docs" / "section.schema.json": sections}
    return {**schemas, **ours, **drawings}


def _materials() -> str:
    rows = [f'  {name}: {{ face: "{tone.face}", edge: "{tone.edge}" }},' for name, tone in TONES.items()]
    message = "/** Materials and the colours of their faces and edges in drawings, made from those of the core. */"
    return "\n".join([message, "export const materials = {", *rows, "} as const;", ""])


def main(arguments: list[str]) -> int:
    """Write the files; with ``--check``, only compare them and return 1 where one is out of date."""
    stale = 0
    for path, text in generated().items():
        if path.exists() and path.read_text() == text:
            continue
        stale += 1
        if "--check" in arguments:
            print(f"{path.relative_to(ROOT)} is out of date: run python -m slow_ribbon.generate", file=sys.stderr)
        else:
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text)
    return 1 if stale and "--check" in arguments else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
