"""Words on frames: what some have in common, changing them, keywords to choose from, templates."""

from __future__ import annotations

from collections import Counter
from functools import partial
from typing import Annotated

from fastapi import Query

from winnow.api.acting import InManner, act
from winnow.api.desk import FRAME_PROBLEMS, SHOOT_PROBLEMS, Desk, OfShoot, OnDesk, demand_frames_of, now
from winnow.api.models.base import Id
from winnow.api.models.marks import Marked
from winnow.api.models.words import (
    CommonWords,
    FilledText,
    HeldCaption,
    HeldKeyword,
    HeldText,
    KeywordOffer,
    SomeFrames,
    TemplateName,
    TemplateView,
    Vocabulary,
    VocabularyView,
    WordsWish,
)
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core import tokens
from winnow.core import vocabulary as terms
from winnow.core.history import BatchKind
from winnow.core.marks import WORD_FIELDS, Field, Value, sentence, value_of
from winnow.core.words import DEFAULT, LONGEST_ITEM, WordsChange, languages_of, list_of
from winnow.store import frames, marks, words
from winnow.store.readable import readable
from winnow.store.words import Template

router = routes("/api", "words")

OF_SHOOT = "/shoots/{shoot_id}"
OFFERED = 20
"""So many different texts of a field are told."""
LONGEST_SHOWN = 2000
"""Characters: they come with an address, in which four times as many bytes, each in three letters, still fit."""


@router.post(
    f"{OF_SHOOT}/words/common", responses=answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT)
)
def common_words(desk: OnDesk, shoot: OfShoot, wish: SomeFrames) -> CommonWords:
    """The words of some frames, and where they differ."""
    frame_ids = list(dict.fromkeys(wish.frame_ids))
    demand_frames_of(desk, shoot, frame_ids)
    held = words.held(desk.database.connection(), frame_ids)
    captions: dict[str, Counter[str | None]] = {DEFAULT: Counter()}
    keywords: Counter[str] = Counter()
    for text, count in held[Field.CAPTION].items():
        for language, said in languages_of(text).items():
            captions.setdefault(language, Counter())[said] += count
    for counted in captions.values():
        counted[None] = len(frame_ids) - counted.total()
    for text, count in held[Field.KEYWORDS].items():
        keywords.update(dict.fromkeys(list_of(text), count))
    creators = Counter({text and "; ".join(list_of(text)): n for text, n in held[Field.CREATOR].items()})
    return CommonWords(
        frames=len(frame_ids),
        captions=[
            HeldCaption(language=language, texts=_told(captions[language]))
            for language in sorted(captions, key=lambda one: (one != DEFAULT, one))
        ],
        headline=_told(held[Field.HEADLINE]),
        creator=_told(creators),
        copyright=_told(held[Field.COPYRIGHT]),
        keywords=[HeldKeyword(word=word, frames=n) for word, n in keywords.most_common()],
    )


def _told(counted: Counter[str | None]) -> list[HeldText]:
    most = sorted(counted.items(), key=lambda one: (-one[1], one[0] or ""))
    return [HeldText(text=text, frames=n) for text, n in most if n][:OFFERED]


@router.post(
    f"{OF_SHOOT}/words",
    responses=answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.CANNOT_BE_DONE),
)
def set_words(desk: OnDesk, shoot: OfShoot, wish: WordsWish, manner: InManner) -> Marked:
    """Changes words on frames as one action."""
    frame_ids = list(dict.fromkeys(wish.frame_ids))
    demand_frames_of(desk, shoot, frame_ids)
    change = _change(wish)
    said = change.said()
    if not said:
        raise ProblemError(Code.CANNOT_BE_DONE, "No words were given: say a caption, a keyword, …")
    connection = desk.database.connection()
    who = sentence(frames.names(connection, frame_ids[:1]), len(frame_ids), {})
    return act(
        desk,
        shoot.id,
        manner,
        lambda c: marks.set_marks(
            c,
            shoot.id,
            _values(desk, frame_ids, change, shoot.title),
            kind=BatchKind.MARK,
            actor=manner.actor,
            title=who + said,
            now=now(),
        ),
    )


def _change(wish: WordsWish) -> WordsChange:
    named = [name for name in ("headline", "copyright") if name in wish.model_fields_set]
    texts: dict[str, str | None] = {str(name): getattr(wish, name) for name in named}
    creators = tuple(wish.creators or ()) if "creators" in wish.model_fields_set else None
    return WordsChange(wish.captions, texts, creators, tuple(wish.add_keywords), tuple(wish.remove_keywords))


def _values(
    desk: Desk, frame_ids: list[int], change: WordsChange, title: str
) -> dict[int, dict[Field, Value]]:
    """What each frame is to hold."""
    connection = desk.database.connection()
    about = words.about(connection, frame_ids, title)
    found: dict[int, dict[Field, Value]] = {}
    for frame_id, held in marks.current(connection, frame_ids).items():
        now_held = {field.value: value_of(held, field) for field in WORD_FIELDS}
        filled = change.filled(partial(tokens.fill, about=about[frame_id]))
        texts = filled.of({name: None if text is None else str(text) for name, text in now_held.items()})
        found[frame_id] = {Field(name): text for name, text in texts.items()}
    return found


@router.get(f"{OF_SHOOT}/words/filled", responses=answers(*FRAME_PROBLEMS, Code.NOT_OF_THIS_SHOOT))
def fill_tokens(
    desk: OnDesk, shoot: OfShoot, frame_id: Id, text: Annotated[str, Query(max_length=LONGEST_SHOWN)]
) -> FilledText:
    """How a text begins on a frame, were it the first of those it is said of."""
    demand_frames_of(desk, shoot, [frame_id])
    about = words.about(desk.database.connection(), [frame_id], shoot.title)
    return FilledText(text=tokens.fill(text, about[frame_id]))


@router.get(f"{OF_SHOOT}/keywords", responses=answers(*SHOOT_PROBLEMS))
def complete_keyword(
    desk: OnDesk, shoot: OfShoot, text: Annotated[str, Query(max_length=LONGEST_ITEM)]
) -> list[KeywordOffer]:
    """Keywords of the shoot and of the vocabulary that go on from what is typed."""
    connection = desk.database.connection()
    in_use = words.keywords_in_use(connection, shoot.id)
    found = terms.offers(text, terms.read(words.vocabulary(connection)), in_use)
    return [KeywordOffer(word=one.word, above=list(one.above), frames=one.frames) for one in found]


@router.get("/vocabulary", responses=answers())
def get_vocabulary(desk: OnDesk) -> VocabularyView:
    """The person's own list of keywords."""
    text = words.vocabulary(desk.database.connection())
    return VocabularyView(text=text, words=len(terms.read(text)))


@router.put("/vocabulary", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def set_vocabulary(desk: OnDesk, wish: Vocabulary) -> VocabularyView:
    """Another list in its place; an empty one takes it away. Frames keep their keywords."""
    try:
        count = len(terms.read(wish.text))
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    with desk.database.transaction() as connection:
        words.set_vocabulary(connection, wish.text)
    return VocabularyView(text=wish.text, words=count)


@router.get("/templates", responses=answers())
def list_templates(desk: OnDesk) -> list[TemplateView]:
    """Words to be said again and again."""
    return readable(words.templates(desk.database.connection()), TemplateView.model_validate)


@router.put("/templates", responses=answers(*CHANGING))
def keep_template(desk: OnDesk, wish: TemplateView) -> list[TemplateView]:
    """Keeps a template, in the place of another of that name."""
    template = Template(
        wish.name.strip(),
        wish.caption,
        wish.headline,
        tuple(wish.keywords),
        tuple(wish.creators),
        wish.copyright,
    )
    with desk.database.transaction() as connection:
        words.keep_template(connection, template)
    return list_templates(desk)


@router.post("/templates/forget", responses=answers(*CHANGING))
def forget_template(desk: OnDesk, wish: TemplateName) -> list[TemplateView]:
    """Forgets a template; the words that came of it stay."""
    with desk.database.transaction() as connection:
        words.forget_template(connection, wish.name)
    return list_templates(desk)
