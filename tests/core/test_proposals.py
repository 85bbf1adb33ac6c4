"""What may be proposed, against a plain account of who said what of each mark."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from winnow.core.marks import UNMARKED, Decision, Field, Marks, Value, value_of, with_value
from winnow.core.proposals import PROPOSED, Proposal, propose, settle, turned_down

values = {
    Field.DECISION: st.sampled_from([one.value for one in Decision]),
    Field.RATING: st.integers(0, 5),
    Field.LABEL: st.sampled_from([None, "Retouch", "Client"]),
}
said = st.lists(
    st.tuples(st.sampled_from(["photographer", "Mia", "Joe"]), st.fixed_dictionaries({}, optional=values)),
    max_size=12,
)


def nothing(field: Field) -> Value:
    return value_of(UNMARKED, field)


@given(said)
def test_nothing_that_was_decided_is_proposed_away(actions: list[tuple[str, dict[Field, Value]]]) -> None:
    marks, standing = Marks(), None
    account: dict[Field, tuple[Value, bool]] = {field: (nothing(field), False) for field in PROPOSED}
    by = None
    for who, wanted in actions:
        if who == "photographer":
            values, standing = dict(wanted), settle(standing, frozenset(wanted))
            account |= {field: (value, False) for field, value in wanted.items()}
        else:
            values, standing = propose(marks, standing, wanted, who)
            free = {f: v for f, v in wanted.items() if account[f][1] or account[f][0] == nothing(f)}
            account |= {field: (value, value != nothing(field)) for field, value in free.items()}
            by = who if free else by
        for field, value in values.items():
            marks = with_value(marks, field, value)
        fields = {field for field, (_, is_proposed) in account.items() if is_proposed}
        assert {field: value_of(marks, field) for field in PROPOSED} == {
            f: v for f, (v, _) in account.items()
        }
        assert (standing.fields if standing else set()) == fields
        assert standing is None or (standing.by == by and Proposal.parse(str(standing)) == standing)
    if standing:
        for field, value in turned_down(standing).items():
            assert value == nothing(field)
        assert turned_down(standing).keys() == standing.fields


def test_words_and_turns_are_not_proposed() -> None:
    wanted: dict[Field, Value] = {Field.TURN: 1, Field.CAPTION: "x", Field.RATING: 2}
    assert propose(Marks(), None, wanted, "Mia") == (
        {Field.RATING: 2},
        Proposal(frozenset({Field.RATING}), "Mia"),
    )


@pytest.mark.parametrize("text", ["", "rating", "rating ", "caption Mia", "stars Mia"])
def test_what_is_no_proposal_is_refused(text: str) -> None:
    with pytest.raises(ValueError):
        Proposal.parse(text)
