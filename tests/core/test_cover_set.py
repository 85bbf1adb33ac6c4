"""The cover set against brute force over all subsets of frames."""

from __future__ import annotations

from itertools import combinations

from hypothesis import given, settings
from hypothesis import strategies as st

from winnow.core.cover_set import Shown, cover_set
from winnow.core.faces.eyes import EyeState

faces = st.builds(
    Shown,
    person=st.integers(0, 4),
    facing=st.sampled_from([True, True, False]),
    eyes=st.tuples(st.sampled_from(list(EyeState)), st.sampled_from([EyeState.OPEN, EyeState.UNKNOWN])),
    sigma=st.sampled_from([None, 0.8, 1.7, 2.4]),
)


def well(face: Shown) -> bool:
    states = set(face.eyes) - {EyeState.UNKNOWN}
    return face.facing and states == {EyeState.OPEN} and face.sigma in (0.8, 1.7)


@settings(max_examples=300, deadline=None)
@given(st.lists(st.lists(faces, max_size=4), max_size=7), st.randoms())
def test_the_fewest_frames_and_of_those_the_best(frames: list[list[Shown]], order: object) -> None:
    ranks = list(range(len(frames)))
    order.shuffle(ranks)  # type: ignore[attr-defined]
    shown = [{face.person for face in faces_of if well(face)} for faces_of in frames]
    everybody = set().union(*shown)
    covers = [
        (size, sum(ranks[at] for at in some), some)
        for size in range(len(frames) + 1)
        for some in combinations(range(len(frames)), size)
        if set().union(*(shown[at] for at in some)) == everybody
    ]
    found = cover_set(frames, ranks)
    assert tuple(found.frames) == min(covers)[2]
    told = [person for people in found.frames.values() for person in people]
    assert sorted(told) == sorted(everybody), "each is named once"
    assert all(set(people) <= shown[at] for at, people in found.frames.items())
    assert set(found.nobody) == {face.person for one in frames for face in one} - everybody
