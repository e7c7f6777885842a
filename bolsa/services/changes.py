"""The one door for writing: a transaction that is there before anything is read, one journal step, and what follows it.

    with change(db, by) as done:
        account = accounts.get_account(db, account_id)     # read inside: it stays true until the end
        done.sentence = f"Hid the account {account.name}"  # said once it is known
        ...                                                # writes, by the store
    return done

Areas say what follows every step, and how steps of a kind of their own are undone, in following.py.
"""

import re
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from bolsa.core.house.kept import Step
from bolsa.core.ledger.belongings import Deleted
from bolsa.core.whole_numbers import counted
from bolsa.errors import Conflict, NotAllowed
from bolsa.services import following
from bolsa.services.clock import By
from bolsa.store import journal
from bolsa.store.connection import atomic, trying
from bolsa.store.house.content_mark import renew_mark
from bolsa.store.ledger import attachments, entries


@dataclass
class Done:
    """What a change did: its step in the journal (None if nothing was changed), the sentence that says it in the past tense,
    and what it made, such as an entry's id. It is filled in while the change is under way."""

    step_id: int | None = None
    sentence: str = ""
    made: Any = None

    @property
    def step(self) -> int:
        """The step while the change is under way, or that was kept."""
        if self.step_id is None:
            raise ValueError("nothing was changed")
        return self.step_id


@contextmanager
def change(db: sqlite3.Connection, by: By, *, batch_id: int | None = None) -> Iterator[Done]:
    """A transaction whose changes are one journal step; within another change it is a part of that one.

    The write lock is taken at once, so that whatever is read inside to decide stays true until the end. With `batch_id` the
    step is a bringing-in (or its undo), which keeps its rows instead of images of them. A step that changed nothing is not
    kept. Raises: NotAllowed for who may only look.
    """
    if not by.may_change:
        raise NotAllowed("You may look, and not change anything here.")
    with atomic(db):
        running = journal.find_running(db)
        if running and batch_id is not None:
            raise ValueError("a bringing-in is a step of its own")
        if running:
            done = Done(running)
            yield done
            journal.name_step(db, running, done.sentence)
            return
        guards = following.watch_step(db)
        step_id = journal.begin_step(db, by.at, by.member_id, batch_id=batch_id)
        done = Done(step_id)
        yield done
        following.follow_step(db, step_id)
        for require_as_before in guards:
            require_as_before()
        if not journal.end_step(db, step_id, done.sentence):
            done.step_id = None
        else:
            done.sentence = done.sentence or journal.get_step(db, step_id).sentence
        renew_mark(db)


@contextmanager
def note(db: sqlite3.Connection) -> Iterator[None]:
    """A transaction for what Bolsa notes for itself and nobody would undo: where a sitting is, a preview that waits, how a
    connection fares, a past that is written whole. It leaves no step."""
    with atomic(db):
        yield
        renew_mark(db)


def list_steps(db: sqlite3.Connection, before_id: int | None = None, most: int = 50) -> list[Step]:
    """The journal's newest steps, or those before one."""
    return journal.list_steps(db, before_id=before_id or 2**62, most=most)


def list_trash(db: sqlite3.Connection) -> list[Deleted]:
    """What is in the trash, the latest first."""
    return entries.list_trash(db)


def undo_step(db: sqlite3.Connection, by: By, step_id: int) -> Done:
    """Takes back what a step changed, as a step of its own.

    Raises: Conflict if it was undone already, or if something it changed was changed again since.
    """
    batch_id = journal.get_step(db, step_id).batch_id
    if batch_id is not None:  # which batch a step brought in never changes; whether it is there still is decided behind the door
        undone: Done = following.undo_kind("batch", db, by, batch_id)
        return undone
    try:
        with change(db, by) as done:
            done.sentence = f"Undone: {journal.get_step(db, step_id).sentence}"
            _reverse(db, step_id, done)
    except sqlite3.IntegrityError as error:
        raise _built_on(db, by, step_id) from error
    return done


_TAKEN = re.compile(r"UNIQUE constraint failed: (account|category|tag|payee|member|security|series)\.(name|number|code)")
BUILT_ON = "Later changes build on this one. Undo those first."


def _built_on(db: sqlite3.Connection, by: By, step_id: int) -> Conflict:
    """Why a step cannot be undone whose undoing left references that lead nowhere: the later step that wrote them."""
    try:
        with change(db, by) as done:
            _reverse(db, step_id, done)
            later = journal.find_step_left_hanging(db, done.step)
            if later is None and (name := journal.find_batch_left_hanging(db)):
                raise Conflict(f"Bolsa still remembers what “{name}” brought into this account. Delete the account instead.")
            raise _in_the_way(later) if later else Conflict(BUILT_ON)
    except Conflict as error:
        return error
    except sqlite3.IntegrityError as error:
        taken = _TAKEN.search(str(error))
        return Conflict(f"Another {taken[1]} has its {taken[2]} now. Change that first.") if taken else Conflict(BUILT_ON)


def _in_the_way(step: Step) -> Conflict:
    error = Conflict(f"“{step.sentence}” builds on this. Undo that first.")
    error.step_id = step.id
    return error


MOST_TOGETHER = 30  # steps undone with one
TOO_MUCH = "Too much was built on this. Undo later steps one by one in the journal."


def undo_with_later(db: sqlite3.Connection, by: By, step_id: int) -> Done:
    """Undoes a step and all those that changed the same things later, latest first, as one step.

    Raises: Conflict if one of them is a bringing-in, which is taken out by itself, or if too much was built on it.
    """
    try:
        with change(db, by) as done:
            undone = _undo_in_turn(db, step_id, done)
            more = f", and {counted(undone - 1, 'later step')}" if undone > 1 else ""
            done.sentence = f"Undone: {journal.get_step(db, step_id).sentence}{more}"
    except sqlite3.IntegrityError as error:
        raise Conflict(TOO_MUCH) from error
    return done


def _undo_in_turn(db: sqlite3.Connection, step_id: int, done: Done) -> int:
    """Undoes what stands in the way, then the step; gives how many that were."""
    undone, waiting = 0, [step_id]
    while waiting:
        if undone + len(waiting) > MOST_TOGETHER:
            raise Conflict(TOO_MUCH)
        if journal.get_step(db, waiting[-1]).batch_id is not None:
            brought = journal.get_step(db, waiting[-1]).sentence
            raise Conflict(f"“{brought}” builds on this. Take that out first, under Bring in.")
        try:
            with trying(db):
                _reverse(db, waiting[-1], done)
                if later := journal.find_step_left_hanging(db, done.step):
                    raise _in_the_way(later)
        except Conflict as error:
            if error.step_id is None or error.step_id in waiting:
                raise
            waiting.append(error.step_id)
            continue
        waiting.pop()
        undone += 1
    return undone


def _reverse(db: sqlite3.Connection, step_id: int, done: Done) -> None:
    if journal.get_step(db, step_id).undone_by:
        raise Conflict("That was undone already.")
    journal.reverse_changes(db, step_id)
    journal.mark_undone(db, step_id, done.step)


def restore_entry(db: sqlite3.Connection, by: By, trash_id: int) -> Done:
    """Puts an entry back from the trash; makes its id. Raises: Conflict if what it refers to was deleted since."""
    try:
        with change(db, by) as done:
            done.sentence = "Put an entry back from the trash"
            done.made = entries.restore_from_trash(db, trash_id)
    except sqlite3.IntegrityError as error:
        raise Conflict("Its account or category was deleted since. Undo that first.") from error
    return done


def empty_trash(db: sqlite3.Connection, by: By) -> Done:
    """Empties the trash; makes how many entries that were. The journal keeps them, and can undo it."""
    with change(db, by) as done:
        done.sentence = "Emptied the trash"
        done.made = entries.empty_trash(db)
        attachments.remove_unused_files(db)
    return done


def version_of(db: sqlite3.Connection, table: str, row_id: int) -> int:
    """The version of a thing a form shows: the latest change of it that the journal knows, 0 if it knows none."""
    return journal.find_version(db, table, row_id)


def require_version(db: sqlite3.Connection, table: str, row_id: int, seen: int | None, typed: str) -> None:
    """Nothing, unless someone changed a thing after the form that is kept now had shown it (`seen` is the version it saw).

    `typed` says what the form holds. Raises: Conflict with both.
    """
    if seen is not None:
        _refuse_if_changed(journal.find_step_since(db, table, row_id, seen), typed)


def version_now(db: sqlite3.Connection) -> int:
    """The version of a page that shows many things, or one that is not there yet: the latest change of all."""
    return journal.find_last_change(db)


def require_untouched(db: sqlite3.Connection, table: str, keys: dict[str, int | str], seen: int | None, typed: str) -> None:
    """Nothing, unless someone wrote a table's row with these values after the page (`seen` is its version). Raises: Conflict."""
    if seen is not None:
        _refuse_if_changed(journal.find_step_about(db, table, keys, seen), typed)


def _refuse_if_changed(step: Step | None, typed: str) -> None:
    if step is not None:
        who = step.member or "Someone"
        raise Conflict(f"{who} changed it meanwhile: {step.sentence}. You typed {typed}. Look again, then decide.")
