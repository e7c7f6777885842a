"""Questions: entries put to a member of the household, and their answers."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from bolsa.core.ledger.entries import StoredEntry
from bolsa.core.sorting.question import Question
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.ledger import entries as entry_service
from bolsa.store.house import household
from bolsa.store.ledger import entries
from bolsa.store.sorting import categories, filing, questions
from bolsa.store.sorting.categories import UNSORTED

MOST_WORDS = 300
ANSWERED_SHOWN = 30


@dataclass(frozen=True)
class Asked:
    """A question with its entry."""

    question: Question
    entry: StoredEntry

    @property
    def is_unsorted(self) -> bool:
        return any(line.category_id == UNSORTED for line in self.entry.category_lines)


def ask(db: sqlite3.Connection, by: By, entry_ids: Sequence[int], member_id: int, note: str) -> Done:
    """Puts entries to a member with a note; they wait for the answer. Raises: InvalidInput, Conflict if they were put already."""
    with change(db, by) as done:
        member = next((one for one in household.list_members(db) if one.id == member_id), None)
        if member is None:
            raise InvalidInput("Choose whom to ask.", field="ask")
        note = " ".join(note.split())
        if len(note) > MOST_WORDS:
            raise InvalidInput(f"{MOST_WORDS} letters are enough for a note.", field="note")
        found = entries.list_entries(db, entry_ids)
        if not found:
            raise NotFound("These entries are not here any more.")
        for entry in found:
            if any(one.answered_on is None for one in questions.list_of_entry(db, entry.id)):
                raise Conflict(f"{entry.payee} of {entry.day} is put to somebody already.")
            questions.insert_question(db, entry.id, member_id, by.member_id, by.today, note)
        count = found[0].payee if len(found) == 1 else f"{len(found)} entries"
        done.sentence = f"Put {count} to {member.name}"
    return done


def answer(db: sqlite3.Connection, by: By, question_id: int, category_id: int | None, words: str = "") -> Done:
    """Answers a question: files its entry under a category, or leaves it as it is filed, with words. Raises: Conflict if it was
    answered already, InvalidInput."""
    with change(db, by) as done:
        question = questions.get_question(db, question_id)
        if question.answered_on is not None:
            raise Conflict("That question was answered already.")
        entry = entries.get_entry(db, question.entry_id)
        is_open = any(line.category_id == UNSORTED for line in entry.category_lines)
        words = " ".join(words.split())[:MOST_WORDS]
        if category_id is None and is_open and not words:
            raise InvalidInput("Choose where it goes, or write an answer.", field="category")
        said = words
        if category_id is not None:
            category = categories.get_category(db, category_id)
            if category.role:
                raise InvalidInput("Choose one of your own categories.", field="category")
            entry_service.set_category(db, by, entry.id, category_id)
            filing.forget_filings(db, [entry.id])
            said = f"{category.name}: {words}" if words else category.name
        questions.answer(db, question_id, by.today, said or "it is right as it is")
        if words:
            filing.add_notes(db, [entry.id], words)
        done.sentence = f"Answered about {entry.payee}: {said or 'it is right as it is'}"
    return done


def take_back(db: sqlite3.Connection, by: By, question_id: int) -> Done:
    """Takes a question back that is not answered yet."""
    with change(db, by) as done:
        question = questions.get_question(db, question_id)
        if question.answered_on is not None:
            raise Conflict("That question was answered already.")
        done.sentence = f"Took back a question to {question.member}"
        questions.remove_question(db, question_id)
    return done


def list_open(db: sqlite3.Connection, member_id: int | None = None) -> list[Asked]:
    """The questions that wait, of one member or of all, with their entries."""
    return _with_entries(db, questions.list_open(db, member_id))


def list_answered(db: sqlite3.Connection) -> list[Asked]:
    """The questions answered last."""
    return _with_entries(db, questions.list_answered(db, ANSWERED_SHOWN))


def list_of_entry(db: sqlite3.Connection, entry_id: int) -> list[Question]:
    """The questions about an entry, the latest first."""
    return questions.list_of_entry(db, entry_id)


def count_open(db: sqlite3.Connection) -> dict[int, int]:
    """How many questions wait, by member."""
    return questions.count_open(db)


def _with_entries(db: sqlite3.Connection, found: Sequence[Question]) -> list[Asked]:
    by_id = {entry.id: entry for entry in entries.list_entries(db, {one.entry_id for one in found})}
    return [Asked(one, by_id[one.entry_id]) for one in found if one.entry_id in by_id]
