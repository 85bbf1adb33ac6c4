"""Which frames of a shoot pass a filter, and how many there are of each kind."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from winnow.core.filters import FrameFilter, Warned
from winnow.core.marks import MAX_RATING, Decision

_WARNED = "(problem IS NOT NULL OR note IS NOT NULL OR marks_note IS NOT NULL)"

_PLACES = ("shoot", "held", "moved", "missing")

_FACES = {None: "", True: "AND faces > 0", False: "AND faces = 0"}

_GROUPED = """frame_group IN (
    SELECT other.frame_group FROM frame AS other
    WHERE other.shoot_id = ?1 AND other.place = 'shoot'
    GROUP BY other.frame_group HAVING count(*) > 1)"""

_SIMILAR = {None: "", True: f"AND {_GROUPED}", False: f"AND NOT {_GROUPED}"}


def passing(connection: sqlite3.Connection, shoot_id: int, wanted: FrameFilter) -> list[int]:
    """Ids of the frames that pass a filter, in capture order."""
    low, high = wanted.star_range()
    decisions = sorted(wanted.decisions)
    places = ", ".join("?" * len(decisions))
    return [
        row[0]
        for row in connection.execute(
            f"""
            SELECT frame.id FROM frame LEFT JOIN mark ON mark.frame_id = frame.id
            WHERE shoot_id = ? AND place = 'shoot'
              AND coalesce(rating, 0) BETWEEN ? AND ?
              {f"AND coalesce(decision, 'undecided') IN ({places})" if decisions else ""}
              {f"AND {_WARNED}" if wanted.problems_only else ""}
              {f"AND ({' OR '.join(map(_warns, sorted(wanted.warnings)))})" if wanted.warnings else ""}
              {_FACES[wanted.faces]}
              {_SIMILAR[wanted.similar]}
              {"AND copies > 0" if wanted.copies else ""}
            ORDER BY position
            """,
            (shoot_id, low, high, *decisions),
        )
    ]


def _warns(warning: Warned) -> str:
    """The condition that a frame carries a warning."""
    return f"(' ' || warnings || ' ') LIKE '% {warning} %'"


@dataclass(slots=True)
class Tally:
    """How many frames of a shoot are where, and how the ones in the shoot are marked.

    `ratings[n]` counts the frames of n stars; `warned` the ones with a problem or a note, `warnings` those that
    the evidence warns of, `faces` and `faceless` those with and without faces (of the measured ones), `similar`
    and `single` those with and without others in their group, `copies` those whose content is there more than once,
    `again` those whose problem may have passed.
    """

    places: dict[str, int]
    decisions: dict[Decision, int]
    ratings: list[int]
    warned: int
    warnings: dict[Warned, int]
    faces: int
    faceless: int
    similar: int
    single: int
    copies: int
    again: int


def tally(connection: sqlite3.Connection, shoot_id: int) -> Tally:
    """All counts of a shoot."""
    places = dict.fromkeys(_PLACES, 0)
    decisions = dict.fromkeys(Decision, 0)
    warnings = dict.fromkeys(Warned, 0)
    ratings = [0] * (MAX_RATING + 1)
    warned = faces = faceless = copies = again = 0
    # Few kinds of frames are left when the rest is left out: counting them is the fastest.
    kinds = connection.execute(
        f"""SELECT place, coalesce(decision, 'undecided'), coalesce(rating, 0), {_WARNED}, warnings,
                   faces > 0, copies > 0,
                   coalesce(problem_kind IN ('passing', 'crashed'), 0), count(*)
            FROM frame LEFT JOIN mark ON mark.frame_id = frame.id WHERE shoot_id = ?
            GROUP BY 1, 2, 3, 4, 5, 6, 7, 8""",
        (shoot_id,),
    )
    for place, decision, rating, problem, codes, with_faces, copied, passing, count in kinds:
        places[place] += count
        if place != "shoot":
            continue
        decisions[Decision(decision)] += count
        ratings[rating] += count
        warned += count * problem
        for code in codes.split():
            warnings[Warned(code)] += count
        copies += count * copied
        again += count * passing
        faces += count * (with_faces == 1)
        faceless += count * (with_faces == 0)
    sizes = [
        row[0]
        for row in connection.execute(
            "SELECT count(*) FROM frame WHERE shoot_id = ? AND place = 'shoot' GROUP BY frame_group",
            (shoot_id,),
        )
    ]
    similar = sum(size for size in sizes if size > 1)
    single = sum(size for size in sizes if size == 1)
    return Tally(
        places, decisions, ratings, warned, warnings, faces, faceless, similar, single, copies, again
    )
