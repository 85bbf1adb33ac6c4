"""The whole OpenAPI document, operation by operation, with made-up input: schemathesis (an independent program)
generates it, and holds every answer against the document. No 5xx, and nothing that is not declared."""

from __future__ import annotations

import json
from collections.abc import Iterator
from importlib import import_module
from pathlib import Path

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    negative_data_rejection,
    response_headers_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from tests import photographs
from tests.server import Server, running
from winnow.api import models
from winnow.api.schema import document

CHECKS = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_headers_conformance,
    response_schema_conformance,
    negative_data_rejection,
]

schemathesis.serializer.alias("application/zip", "application/octet-stream")
DOCUMENT = document()
# What is too large is refused before it is read (413, RFC 9110, 15.5.14), whatever else is wrong with it.
REFUSED = {
    "negative_data_rejection": {"expected-statuses": [400, 401, 403, 404, 405, 406, 409, 413, 415, 422]}
}
# Without the phase that gives each field each wrong type, thousands of refusals of a kind: what is made up at random
# has wrong types among it.
CONFIG = schemathesis.Config.from_dict({"checks": REFUSED, "phases": {"coverage": {"enabled": False}}})
schema = schemathesis.openapi.from_dict(json.loads(DOCUMENT), config=CONFIG)
# The stream of news does not end by itself; what it says is tested in test_journey.
schema = schema.exclude(path="/api/events")
# It ends the server on which the others are tried; tests/browser/test_desk.py tries it.
schema = schema.exclude(path="/api/upkeep/end")


@pytest.fixture(scope="module")
def shared(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Server, int, int]]:
    """A server with a shoot that was marked and planned with, so that small ids lead somewhere."""
    folder = tmp_path_factory.mktemp("document")
    with running(folder / "data", root=folder) as server:
        shoot = server.open(photographs.shoot(folder / "shoot", edge=photographs.WHOLE))
        ids = [frame["id"] for frame in server.frames(shoot)]
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:3], "decision": "keep"})
        plan = server.post(
            f"/api/shoots/{shoot}/plans", {"kind": "copy-keepers", "target": str(folder / "out")}
        )
        yield server, shoot, plan["id"]


@schema.parametrize()
@settings(
    max_examples=15,
    deadline=None,
    derandomize=True,
    phases=[Phase.explicit, Phase.generate],
    suppress_health_check=list(HealthCheck),
)
def test_every_operation(case: schemathesis.Case, shared: tuple[Server, int, int]) -> None:
    server, shoot, plan = shared
    # Half of the questions are about something that is there: the rest about anything.
    positive = case.meta is not None and case.meta.generation.mode.is_positive
    if case.path_parameters and positive and len(str(case.path_parameters)) % 2:
        for name, value in (("shoot_id", shoot), ("plan_id", plan), ("frame_id", 1)):
            if name in case.path_parameters:
                case.path_parameters[name] = value
    case.call_and_validate(
        base_url=server.address,
        headers={"Authorization": f"Bearer {server.token}"},
        checks=CHECKS,
        timeout=60,
    )


def test_operations_have_words_and_declared_problems() -> None:
    operations = [operation for path in json.loads(DOCUMENT)["paths"].values() for operation in path.values()]
    names = [operation["operationId"] for operation in operations]
    assert len(set(names)) == len(names)
    for operation in operations:
        assert operation["operationId"].replace("_", "").isalpha()
        assert operation["summary"]
        for status, answer in operation["responses"].items():
            if status >= "400":
                assert answer["content"] == {
                    "application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}
                }, (operation["operationId"], status)
        assert {"401", "403", "413", "422", "500"} <= set(operation["responses"])


def test_examples_are_of_what_they_stand_at() -> None:
    shown, parts = 0, json.loads(DOCUMENT)["components"]["schemas"]
    for path in Path(models.__file__).parent.glob("*.py"):
        for name, model in vars(import_module(f"{models.__name__}.{path.stem}")).items():
            extra = getattr(model, "model_config", {}).get("json_schema_extra") or {}
            for example in extra.get("examples", []):
                model.model_validate(example)
                assert example in parts[name]["examples"]
                shown += 1
    assert shown > 10


def test_the_document_that_ships_is_this_one() -> None:
    assert (Path(__file__).parents[2] / "web" / "openapi.json").read_text() == DOCUMENT
