"""Every route with what nobody would send: a clear 4xx, never a 500, and nothing broken afterwards."""

import json
from collections.abc import Iterator

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings

from cartouche.web.app import create_app
from tests.helpers import ROOT
from tests.sentences import faults
from tests.web.conftest import HERE, demo_state

DOCUMENT = create_app(None).openapi()  # half a second each time
schema = schemathesis.openapi.from_dict(DOCUMENT)


def as_bytes(body: object) -> bytes:
    return body if isinstance(body, bytes) else json.dumps(body).encode()


@pytest.mark.filterwarnings("ignore")
@schema.parametrize()
@settings(max_examples=8, suppress_health_check=list(HealthCheck))
def test_no_route_breaks(case: schemathesis.Case, shared: TestClient) -> None:
    body = {} if case.body is schemathesis.core.NOT_SET else {"content": as_bytes(case.body)}
    path = case.formatted_path
    answer = shared.request(case.method, path, params=case.query or None, headers={"content-type": "application/json"}, **body)
    assert answer.status_code < 500 or answer.status_code == 507, answer.text
    if answer.status_code >= 400:
        detail = answer.json()["detail"]
        assert isinstance(detail, str)
        assert not faults(detail), (detail, faults(detail))


@pytest.fixture(scope="module")
def shared_demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(create_app(demo_state(tmp_path_factory.mktemp("demo"))), base_url=HERE) as client:
        yield client


ROUTES = sorted((method.upper(), path) for path, methods in DOCUMENT["paths"].items() for method in methods if method != "get")
DEVICE_IDS = ("desk-camera", "nobody", "..%2f..", "'; DROP TABLE device; --")
BODIES = [
    b"",
    b"{",
    b"null",
    b"[]",
    b'"text"',
    b'{"chain": null}',
    b'{"chain": {"square": {"corners": 7}}}',
    b"\xff\xfe\x00",
    b'{"lesson_id": "' + b"x" * 5000 + b'"}',
    b'{"plate_id": ["a"]}',
    b'{"size": 1e999}',
    b'{"vertical": NaN, "horizontal": Infinity}',
    b'{"name": "\\u0000"}',
    b"[" * 3000,
    json.dumps({"title": "‮ reversed", "class_name": "9", "starts": "99:99"}).encode(),
]


@pytest.mark.parametrize(("method", "path"), ROUTES)
def test_malformed_bodies(request: pytest.FixtureRequest, method: str, path: str) -> None:
    changes = any(word in path for word in ("kit", "lessons"))  # some of these delete what the next would ask for
    web: TestClient = request.getfixturevalue("web" if changes else "shared_demo")
    takes_a_body = "requestBody" in DOCUMENT["paths"][path][method.lower()]
    others = DEVICE_IDS[1:] if "{device_id}" in path else ()
    for device_id, bodies in ((DEVICE_IDS[0], BODIES), *((other, BODIES[-4:]) for other in others)):
        for body in bodies:
            answer = web.request(method, path.replace("{device_id}", device_id), content=body, headers={"content-type": "application/json"})
            if takes_a_body:
                assert 400 <= answer.status_code < 500, (body, answer.text)
            assert answer.status_code < 500, (body, answer.text)
            if answer.status_code >= 400:
                detail = answer.json()["detail"]
                assert not faults(detail), (detail, faults(detail))
    if not path.startswith("/api/kit"):
        assert len(web.get("/api/kit").json()["devices"]) == 3


def test_the_published_document_is_the_running_one(web: TestClient) -> None:
    assert json.loads((ROOT / "frontend" / "openapi.json").read_text()) == web.get("/api/openapi.json").json(), "run ./run openapi"
