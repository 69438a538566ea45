"""A job as a window holds it: opened, and changed by what it is sent; the tests' own merging, apart from the window's."""

from __future__ import annotations

import json
from typing import Any

GROUPS = ("lines", "sections", "runs", "rows", "typicals")


def opened(client: Any, id: str) -> dict[str, Any]:
    """Return a job with all its figures, as it is when everything has come."""
    answer = client.get(f"/api/jobs/{id}")
    assert answer.status_code == 200, answer.text
    shown: dict[str, Any] = {**answer.json(), **{group: [] for group in GROUPS}, "cuts": {}, "checks": {}}
    parts = client.get(f"/api/jobs/{id}/figures", params={"revision": shown["revision"]}).text.splitlines()
    for part in map(json.loads, parts):
        for group in GROUPS:
            shown[group] += part[group]
        shown["cuts"] |= part["cuts"]
        shown["checks"] |= part["checks"]
        shown["totals"] = part["totals"]
    for group in GROUPS:
        order = [thing["id"] for thing in shown["job"][group]]
        shown[group].sort(key=lambda figures: order.index(figures["id"]))
    return shown


def cut_rows(client: Any, id: str, cuts: dict[str, str]) -> dict[str, list[Any]]:
    """Return the rows of a job's cutting list by run or typical, asked for by their keys."""
    keys = list(cuts.values())
    known: dict[str, Any] = {}
    for low in range(0, len(keys), 64):
        known |= client.get(f"/api/jobs/{id}/cutting", params={"keys": ",".join(keys[low : low + 64])}).json()
    return {thing: known[key] for thing, key in cuts.items()}


def merged(shown: dict[str, Any], change: dict[str, Any]) -> dict[str, Any]:
    """Return the job after a change."""
    assert change["since"] == shown["revision"]
    job = dict(shown["job"])
    for name, value in change["job"].items():
        if name not in (*GROUPS, "pictures"):
            job[name] = value
            continue
        things = {thing["id"]: thing for thing in job[name]} | {thing["id"]: thing for thing in value.get("put", [])}
        order = value.get("order") or [id for id in things if id not in value.get("gone", [])]
        job[name] = [things[id] for id in order]
    after = {**shown, **{name: change[name] for name in ("revision", "undo", "redo")}, "job": job}
    for group in GROUPS:
        figures = {one["id"]: one for one in shown[group]} | {one["id"]: one for one in change[group]}
        after[group] = [figures[thing["id"]] for thing in job[group]]
    there = {thing["id"] for group in ("runs", "rows", "typicals") for thing in job[group]}
    for name in ("cuts", "checks"):
        after[name] = {id: rows for id, rows in (shown[name] | change[name]).items() if id in there}
    totals = change["totals"]
    runs = {id: total for id, total in (shown["totals"]["runs"] | totals["runs"]).items() if id in there}
    sections = {id: total for id, total in (shown["totals"]["sections"] | totals["sections"]).items() if total["pieces"]}
    sizes = shown["totals"]["sizes"] | totals["sizes"]
    after["totals"] = {**totals, "runs": runs, "sections": sections, "sizes": sizes}
    return after
