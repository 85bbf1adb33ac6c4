"""Passes through the interface: what they let change, what they remember, what is taken back."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests import photographs
from tests.server import Server, running
from winnow.core.passes import SETS, Does, Done, Goes, Layout, Leaves, Order, Start

BASE = "/api/shoots/1"
FIELDS = ("decision", "rating", "label", "turn")


@pytest.fixture(scope="module")
def six(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """Six frames of two groups, all measured."""
    folder = tmp_path_factory.mktemp("six")
    with running(folder / "data", root=folder) as server:
        server.open(photographs.shoot(folder / "Six"))
        yield server


@pytest.fixture(autouse=True)
def unmarked(six: Server) -> None:
    ids = [frame["id"] for frame in six.frames(1)]
    six.post(f"{BASE}/marks", {"frame_ids": ids, "decision": "undecided", "rating": 0, "label": None})


def marks(server: Server) -> list[tuple[Any, ...]]:
    return [tuple(frame[field] for field in FIELDS) for frame in server.frames(1)]


def decided(server: Server) -> str:
    words = {"keep": "K", "reject": "R", "undecided": "."}
    return "".join(words[frame["decision"]] for frame in server.frames(1))


def begin(server: Server, name: str) -> dict[str, Any]:
    walk: dict[str, Any] = server.post(f"{BASE}/passes", {"name": name})
    return walk


def do(server: Server, walk: int, path: str, body: object) -> int:
    return server.request("POST", f"{BASE}/{path}", body, {"Winnow-Walk": str(walk)})[0]


definitions = st.fixed_dictionaries(
    {
        "name": st.just("Any"),
        "question": st.just("Any?"),
        "scope": st.sampled_from(["", "not rejects", "keepers or undecided", "has similar"]),
        "start": st.sampled_from(Start),
        "order": st.sampled_from(Order),
        "warned_first": st.booleans(),
        "layout": st.sampled_from(Layout),
        "keys": st.lists(st.sampled_from(Does), min_size=1, max_size=6, unique=True).map(
            lambda some: [{"does": one} for one in some]
        ),
        "goes_on": st.lists(st.sampled_from(Goes), max_size=2, unique=True),
        "leaves": st.sampled_from(Leaves),
        "done": st.sampled_from(Done),
        "full": st.booleans(),
    }
)
acts = st.one_of(
    st.tuples(st.just("marks"), st.sampled_from([{"decision": "keep"}, {"decision": "reject"}])),
    st.tuples(st.just("marks"), st.integers(0, 5).map(lambda n: {"rating": n})),
    st.tuples(st.just("marks"), st.sampled_from([{"label": "Retouch"}, {"label": None}])),
    st.tuples(st.just("marks"), st.sampled_from([{"turn": "left"}, {"rating": 2, "decision": "keep"}])),
    st.tuples(st.just("words"), st.just({"headline": "a headline"})),
    st.tuples(st.just("keep-lead"), st.just({"reject_rest": True})),
    st.tuples(st.just("groups"), st.just({"action": "join_next"})),
    st.tuples(st.sampled_from(["undo", "redo"]), st.just({})),
)


@given(definitions, st.lists(st.tuples(acts, st.integers(0, 5)), max_size=10))
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_nothing_else_changes_whatever_the_pass_and_the_keys(
    six: Server, definition: dict[str, Any], done: list[tuple[tuple[str, dict[str, Any]], int]]
) -> None:
    may = {str(field) for key in definition["keys"] for field in SETS.get(key["does"], ())}
    assert six.request("PUT", "/api/passes", definition)[0] == 200
    original = marks(six)
    begun = begin(six, "Any")
    walk = begun["id"]
    ids = [frame["id"] for frame in six.frames(1)]
    before, groups = marks(six), [frame["group"] for frame in six.frames(1)]
    headlines = six.post(f"{BASE}/words/common", {"frame_ids": ids})["headline"]
    for (path, body), place in done:
        if path in ("undo", "redo"):
            due = six.get(f"{BASE}/actions")[path]
            if due is None or due["batch"] <= (begun["starting"] or walk_start(six, walk)):
                continue
            body = {"batch": due["batch"]}
        elif path in ("keep-lead", "groups"):
            body = body | {"frame_id": ids[place]}
        else:
            body = body | {"frame_ids": [ids[place]]}
        assert do(six, walk, path, body) in (200, 409, 422)
    for row, was in zip(marks(six), before, strict=True):
        changed = {field for field, now, then in zip(FIELDS, row, was, strict=True) if now != then}
        assert changed <= may
    assert [frame["group"] for frame in six.frames(1)] == groups
    if "headline" not in may:
        assert six.post(f"{BASE}/words/common", {"frame_ids": ids})["headline"] == headlines
    assert six.post(f"{BASE}/passes/{walk}/take-back")["later"] == 0
    assert marks(six) == original
    six.post("/api/passes/forget", {"name": "Any"})


def walk_start(server: Server, walk: int) -> int:
    """The newest action that is no part of a walk."""
    entries = server.get(f"{BASE}/history")["entries"]
    return next((entry["id"] for entry in entries if entry["walk"] != walk), 0)


def test_what_rests_is_refused_with_the_reason(six: Server) -> None:
    walk = begin(six, "Weed")["id"]
    ids = [frame["id"] for frame in six.frames(1)]
    assert decided(six) == "KKKKKK"
    status, _, answer = six.request(
        "POST", f"{BASE}/marks", {"frame_ids": ids[:1], "rating": 3}, {"Winnow-Walk": str(walk)}
    )
    assert status == 422 and b"In Weed this rests (rating)" in answer
    assert do(six, walk, "marks", {"frame_ids": ids[:2], "decision": "reject"}) == 200
    # From outside of the pass everything can be said.
    six.post(f"{BASE}/marks", {"frame_ids": ids[:1], "rating": 3})


def test_a_walk_is_remembered_and_taken_back_as_a_whole(six: Server) -> None:
    ids = [frame["id"] for frame in six.frames(1)]
    six.post(f"{BASE}/marks", {"frame_ids": ids[:1], "decision": "reject"})
    walk = begin(six, "Weed")
    assert walk["frames"] == ids[1:] and decided(six) == "RKKKKK"
    do(six, walk["id"], "marks", {"frame_ids": [ids[1]], "decision": "reject"})
    do(six, walk["id"], "marks", {"frame_ids": [ids[2]], "decision": "reject"})
    six.request("PUT", f"{BASE}/passes/{walk['id']}", {"frame": ids[3], "seen": ids[1:3], "seconds": 2.5})
    found = six.get(f"{BASE}/passes/{walk['id']}")
    assert (found["frame"], found["seen_frames"], found["seconds"]) == (ids[3], ids[1:3], 2.5)
    six.request("PUT", f"{BASE}/passes/{walk['id']}", {"frame": 99_999, "seen": [99_999], "seconds": 1})
    assert six.get(f"{BASE}/passes/{walk['id']}")["seen"] == 2
    outcome = six.get(f"{BASE}/passes/{walk['id']}/outcome")
    assert outcome["decisions"] == {"undecided": 0, "keep": 3, "reject": 2} and outcome["changed"] == 2
    assert outcome["next"] == {"name": "Choose", "frames": 3}
    # Marked otherwise since: stays, and is told; the rest is as it was, and one undo brings the pass back.
    six.post(f"{BASE}/marks", {"frame_ids": [ids[5]], "decision": "reject"})
    assert six.post(f"{BASE}/passes/{walk['id']}/take-back") == {"frames": 4, "later": 1}
    assert decided(six) == "R....R"
    assert six.get(f"{BASE}/passes")["walks"][0]["taken_back"]
    six.step(1, "undo")
    assert decided(six) == "RRRKKR" and not six.get(f"{BASE}/passes")["walks"][0]["taken_back"]
    assert six.get(f"{BASE}/history")["entries"][2]["in_pass"] == "Weed"


def test_ours_stay_and_own_ones_are_kept_in_order(six: Server) -> None:
    passes = six.get("/api/passes")
    weed = passes["ours"][0]
    status, _, answer = six.request("PUT", "/api/passes", weed)
    assert status == 422 and b"comes with Winnow" in answer
    mine = weed | {"name": "Mine", "scope": "label Retouch"}
    assert six.request("PUT", "/api/passes", mine | {"scope": "unicorns"})[0] == 422
    six.request("PUT", "/api/passes", mine)
    assert six.get("/api/passes")["order"] == [*passes["order"], "Mine"]
    six.request("PUT", "/api/passes/order", {"names": ["Mine", "Weed", "Nobody"]})
    assert six.get("/api/passes")["order"] == ["Mine", "Weed"]
    # In other letters, or with its accents composed otherwise, it is the same pass, and stays where it was.
    six.request("PUT", "/api/passes", mine | {"name": "MÜLLER"})
    six.request("PUT", "/api/passes/order", {"names": ["MÜLLER", "Mine", "Weed"]})
    six.request("PUT", "/api/passes", mine | {"name": "mu\u0308ller"})
    assert six.get("/api/passes")["order"] == ["mu\u0308ller", "Mine", "Weed"]
    six.post("/api/passes/forget", {"name": "Müller"})
    # A label gets another name: the pass still asks about it, and so does a filter.
    six.post(f"{BASE}/filters", {"name": "To do", "show": "label Retouch, 3 stars", "everywhere": True})
    labels = six.get("/api/labels")
    wish = {name: labels[name] for name in ("labels", "program", "version")} | {"said": "renamed"}
    wish["labels"][0]["name"] = "By hand"
    assert six.request("PUT", "/api/labels", wish)[0] == 200
    mine = next(one for one in six.get("/api/passes")["own"] if one["name"] == "Mine")
    assert mine["scope"] == "label By hand"
    assert six.get(f"{BASE}/filters")[0]["show"] == "label By hand, 3 stars"
    assert six.request("POST", f"{BASE}/passes", {"name": "Mine"})[0] == 409
    assert six.get(f"{BASE}/passes")["asked"]["Mine"] == 0
    six.post("/api/passes/forget", {"name": "Mine"})
    assert "Mine" not in [one["name"] for one in six.get("/api/passes")["own"]]
