"""Entries put to a member, until they are answered."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date

from bolsa.core.sorting.question import Question
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

INSERT_QUESTION = """
    INSERT INTO question (entry_id, member_id, asked_by, asked_on, note, rule_id)
    VALUES (:entry_id, :member_id, :asked_by, :asked_on, :note, :rule_id)"""


def insert_question(
    db: sqlite3.Connection,
    entry_id: int,
    member_id: int,
    asked_by: int | None,
    asked_on: date,
    note: str,
    rule_id: int | None = None,
) -> int:
    """Puts an entry to a member; gives the question's id."""
    values = {"entry_id": entry_id, "member_id": member_id, "asked_by": asked_by, "asked_on": asked_on.isoformat()}
    return new_id(db.execute(INSERT_QUESTION, values | {"note": note, "rule_id": rule_id}))


SELECT_QUESTIONS = """
    SELECT q.id, q.entry_id, q.member_id, m.name AS member, coalesce(b.name, '') AS asked_by, q.asked_on, q.note, q.rule_id,
           q.answered_on, q.answer
    FROM question q JOIN member m ON m.id = q.member_id LEFT JOIN member b ON b.id = q.asked_by"""


def _question(row: sqlite3.Row) -> Question:
    days = {name: date.fromisoformat(row[name]) if row[name] else None for name in ("asked_on", "answered_on")}
    return Question(**{**dict(row), **days})


def list_open(db: sqlite3.Connection, member_id: int | None = None) -> list[Question]:
    """The questions that wait for an answer, of one member or of all, the oldest first."""
    where = " WHERE q.answered_on IS NULL AND (:member_id IS NULL OR q.member_id = :member_id) ORDER BY q.id"
    return [_question(row) for row in db.execute(SELECT_QUESTIONS + where, {"member_id": member_id})]


def list_of_entry(db: sqlite3.Connection, entry_id: int) -> list[Question]:
    """The questions about an entry, the latest first."""
    where = " WHERE q.entry_id = :entry_id ORDER BY q.id DESC"
    return [_question(row) for row in db.execute(SELECT_QUESTIONS + where, {"entry_id": entry_id})]


def list_answered(db: sqlite3.Connection, most: int) -> list[Question]:
    """The questions answered last."""
    where = " WHERE q.answered_on IS NOT NULL ORDER BY q.answered_on DESC, q.id DESC LIMIT :most"
    return [_question(row) for row in db.execute(SELECT_QUESTIONS + where, {"most": most})]


def get_question(db: sqlite3.Connection, question_id: int) -> Question:
    """The question. Raises: NotFound."""
    row = db.execute(SELECT_QUESTIONS + " WHERE q.id = :id", {"id": question_id}).fetchone()
    if row is None:
        raise NotFound("That question is not here any more.")
    return _question(row)


def count_open(db: sqlite3.Connection) -> dict[int, int]:
    """How many questions wait for each member who has some."""
    sql = "SELECT member_id, count(*) AS many FROM question WHERE answered_on IS NULL GROUP BY member_id"
    return {row["member_id"]: row["many"] for row in db.execute(sql)}


ANSWER = "UPDATE question SET answered_on = :day, answer = :answer WHERE id = :id"


def answer(db: sqlite3.Connection, question_id: int, day: date, words: str) -> None:
    """Notes the answer to a question."""
    db.execute(ANSWER, {"id": question_id, "day": day.isoformat(), "answer": words})


ANSWER_ALL = """
    UPDATE question SET answered_on = :day, answer = :answer
    WHERE answered_on IS NULL AND entry_id IN (SELECT value FROM json_each(:ids))"""


def answer_all_of(db: sqlite3.Connection, entry_ids: Iterable[int], day: date, words: str) -> None:
    """Notes the answer to every open question about some entries."""
    db.execute(ANSWER_ALL, {"ids": json.dumps(list(entry_ids)), "day": day.isoformat(), "answer": words})


def remove_question(db: sqlite3.Connection, question_id: int) -> None:
    db.execute("DELETE FROM question WHERE id = :id", {"id": question_id})


def move_all(db: sqlite3.Connection, entry_id: int, into_id: int) -> None:
    """Gives the questions about one entry to another."""
    db.execute("UPDATE question SET entry_id = :into WHERE entry_id = :id", {"id": entry_id, "into": into_id})
