"""Any request that the description of the service allows, and many that it does not: never a failure of the service's own."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from examples import examples
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, seed, settings
from schemathesis.generation import GenerationMode

from slow_ribbon.core.job.job_file import job_to_text
from slow_ribbon.demo import ferry_house
from slow_ribbon.service.app import create_app
from slow_ribbon.service.guard import SECURITY_HEADERS

schema = schemathesis.openapi.from_dict(create_app("postgresql://nobody@127.0.0.1:1/nothing").openapi())
schema.config.generation.update(modes=[GenerationMode.POSITIVE, GenerationMode.NEGATIVE])


@pytest.fixture(scope="module")
def any_client(shared_database: str) -> Iterator[TestClient]:
    with TestClient(create_app(shared_database), "http://127.0.0.1", raise_server_exceptions=False) as found:
        file = job_to_text(ferry_house())
        id = found.post("/api/jobs/file", content=file, headers={"Content-Type": "application/json"}).json()["id"]
        found.headers["X-Job"] = id
        yield found


@schema.exclude(path_regex="events$").parametrize()
@seed(20261125)
@settings(max_examples=examples(8), deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
def test_any_request_is_answered(case: Any, any_client: TestClient) -> None:
    # Half of them at a job that is there, at a revision that may be.
    if "id" in (case.path_parameters or {}) and len(json.dumps(case.body, default=str)) % 2:
        case.path_parameters["id"] = any_client.headers["X-Job"]
    arguments = case.as_transport_kwargs(base_url="http://127.0.0.1")
    arguments.pop("cookies", None)
    answer = any_client.request(**arguments)
    assert answer.status_code < 500, (case.as_curl_command(), answer.text)
    for name, value in SECURITY_HEADERS.items():
        assert answer.headers[name] == value
    if answer.status_code >= 400:
        assert answer.headers["content-type"] == "application/problem+json"
        assert {"title", "detail", "code", "status"} <= answer.json().keys()
