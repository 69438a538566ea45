"""Job files (``*.ribbon.json``): the document of a job, and the files that come along in it, read and written."""

from __future__ import annotations

import base64
import hashlib
import json
import re
from collections.abc import Mapping, Sequence
from typing import Any, Final

from pydantic import ValidationError

from slow_ribbon.core.job.derived.derive import derive_read
from slow_ribbon.core.job.document.delta import JobDelta, with_delta
from slow_ribbon.core.job.document.document import FORMAT, Job, check_job, check_references
from slow_ribbon.core.job.document.following_fields import document_of, required_in_documents, with_blanks
from slow_ribbon.core.job.document.upgrade import brought_up_to_date
from slow_ribbon.core.kernel.errors import Refused

_SHA256: Final = re.compile("[0-9a-f]{64}")


def job_from_data(data: Any) -> Job:
    """Return the job that plain data describes, checked throughout.

    Raises ``Refused`` for another format or version, unknown fields, wrong values or a job
    that does not hold together; ``where`` is the place in the data.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise Refused(f'This is not a job file: its "format" is not "{FORMAT}".', "format", "not-a-job")
    # The files a job refers to, its pictures and the meshes of items, may come along in it; they are no part of the job.
    data = {name: value for name, value in data.items() if name != "files"}
    try:
        job = Job.model_validate(with_blanks(brought_up_to_date(data)))
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(str(part) for part in first["loc"])
        more = f" ({error.error_count() - 1} more places)" if error.error_count() > 1 else ""
        raise Refused(f"The job file is wrong at {where}: {first['msg']}{more}.", where, "job-field") from error
    check_references(job)
    job = derive_read(None, job)
    check_job(job)
    return job


def job_from_document(document: Mapping[str, Any]) -> Job:
    """Return the job of a document that this program wrote, in whatever version, not checked again.

    Raises ``Refused`` for one that a newer version of the program wrote.
    """
    return derive_read(None, Job.model_validate(with_blanks(brought_up_to_date(document))))


def with_changes(job: Job, changes: Sequence[Mapping[str, Any]]) -> Job:
    """Return the job that changes of its document, as ``written_change`` writes them, make of another, one after another."""
    after = job
    for change in changes:
        after = with_delta(after, JobDelta.model_validate(with_blanks(change)))
    return derive_read(job, after)


def job_schema() -> dict[str, Any]:
    """Return the JSON Schema of a job file."""
    described = required_in_documents(Job.model_json_schema())
    files = {"type": "object", "additionalProperties": {"type": "string", "contentEncoding": "base64"}}
    described["properties"]["files"] = files | {
        "description": "The pictures under the job and the meshes of its items, by the SHA-256 of their bytes."
    }
    return described


def job_from_text(text: str | bytes) -> Job:
    """Return the job written in a job file. Raises ``Refused`` as ``job_from_data`` does, or where it is no JSON."""
    try:
        data = json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise Refused(f"This is not a job file: it is not valid JSON ({error}).", "", "not-a-job") from error
    return job_from_data(data)


def _no_constant(name: str) -> float:
    raise ValueError(f"{name} is not a number")


def files_from_text(text: str | bytes) -> dict[str, bytes]:
    """Return the files that come along in a job file, by their SHA-256. Raises ``Refused`` where one is not what its name says."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        return {}
    files = data.get("files") if isinstance(data, dict) else None
    found: dict[str, bytes] = {}
    for content, written in files.items() if isinstance(files, dict) else ():
        if not _SHA256.fullmatch(content):
            raise Refused("A file carried in the job file has no SHA-256 for its name: leave it out.", "files", "job-file-content")
        try:
            found[content] = base64.b64decode(written, validate=True)
        except (ValueError, TypeError) as error:
            raise Refused("A file carried in the job file is damaged.", f"files.{content}", "job-file-content") from error
        if hashlib.sha256(found[content]).hexdigest() != content:
            raise Refused("A file carried in the job file is not the one the job refers to.", f"files.{content}", "job-file-content")
    return found


def job_to_text(job: Job, files: Mapping[str, bytes] | None = None) -> str:
    """Return the job file of a job: JSON, one space a level, fields in the model's order; ``files`` by SHA-256 go along."""
    data = document_of(job)
    if files:
        data["files"] = {content: base64.b64encode(found).decode() for content, found in files.items()}
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"
