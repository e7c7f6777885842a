"""What takes long to reckon is remembered until Bolsa changes anything in the household, whichever of its programs does it.

Only what follows from the file's content and the arguments may be remembered, and only values that nobody changes. While a change
is under way nothing is: what it reads is not there yet for others, and may never be.
"""

import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

from bolsa.store.connection import as_household, reading
from bolsa.store.house.content_mark import get_mark

Value = TypeVar("Value")
MOST_REMEMBERED = 48

_known: OrderedDict[Hashable, Any] = OrderedDict()
_lock = threading.Lock()


def remembered(db: sqlite3.Connection, name: str, arguments: Hashable, reckon: Callable[[], Value]) -> Value:
    """What `reckon` gives, by its name and what it depends on beside the household."""
    path = next((row["file"] for row in db.execute("PRAGMA database_list") if row["name"] == "main"), "")
    if not path or as_household(db).is_changing:
        return reckon()
    with reading(db):
        key = (path, get_mark(db), name, arguments)
        with _lock:
            if key in _known:
                _known.move_to_end(key)
                return cast(Value, _known[key])
        found = reckon()
    with _lock:
        _known[key] = found
        while len(_known) > MOST_REMEMBERED:
            _known.popitem(last=False)
    return found


def forget() -> None:
    """Remembers nothing any more, as if something had changed."""
    with _lock:
        _known.clear()
