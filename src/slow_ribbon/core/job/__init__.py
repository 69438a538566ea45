"""The job document, its edits, and the things of it that are derived from others."""

from __future__ import annotations

from slow_ribbon.core.job.conflicts import changed_fields, overlap
from slow_ribbon.core.job.derived.dependencies import Touched, touched
from slow_ribbon.core.job.dimensions import Figure, Spot, dimensions, place_on
from slow_ribbon.core.job.document.delta import JobDelta, delta, new_ids, put_on, with_delta, written
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.following_fields import written_change, written_job
from slow_ribbon.core.job.document.kinds import LINES, ROWS, RUNS, SECTIONS, TYPICALS, Kind
from slow_ribbon.core.job.document.underlay import PictureBody
from slow_ribbon.core.job.document.upgrade import VERSION
from slow_ribbon.core.job.job_file import (
    files_from_text,
    job_from_document,
    job_from_text,
    job_schema,
    job_to_text,
    with_changes,
)
from slow_ribbon.core.job.lint import line_faults
from slow_ribbon.core.job.reissue import RenewedLine, stood_on

__all__ = [
    "LINES",
    "ROWS",
    "RUNS",
    "SECTIONS",
    "TYPICALS",
    "VERSION",
    "Figure",
    "Job",
    "JobDelta",
    "Kind",
    "PictureBody",
    "RenewedLine",
    "Spot",
    "Touched",
    "changed_fields",
    "delta",
    "dimensions",
    "files_from_text",
    "job_from_document",
    "job_from_text",
    "job_schema",
    "job_to_text",
    "line_faults",
    "new_ids",
    "overlap",
    "place_on",
    "put_on",
    "stood_on",
    "touched",
    "with_changes",
    "with_delta",
    "written",
    "written_change",
    "written_job",
]
