"""The job document, its edits, and the things of it that are derived from others."""

from __future__ import annotations

from slow_ribbon.core.job.conflicts import changed_fields, overlap
from slow_ribbon.core.job.derived.dependencies import Touched, touched
from slow_ribbon.core.job.derived.run_dependencies import job_opened
from slow_ribbon.core.job.dimensions import Figure, Spot, dimensions, place_on
from slow_ribbon.core.job.document.delta import JobDelta, delta, new_ids, put_on, with_delta, written
from slow_ribbon.core.job.document.document import Job, files_from_text, job_from_text, job_to_text
from slow_ribbon.core.job.document.kinds import LINES, ROWS, RUNS, SECTIONS, TYPICALS, Kind
from slow_ribbon.core.job.document.underlay import PictureBody
from slow_ribbon.core.job.document.upgrade import VERSION, brought_up_to_date
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
    "brought_up_to_date",
    "changed_fields",
    "delta",
    "dimensions",
    "files_from_text",
    "job_from_text",
    "job_opened",
    "job_to_text",
    "line_faults",
    "new_ids",
    "overlap",
    "place_on",
    "put_on",
    "stood_on",
    "touched",
    "with_delta",
    "written",
]
