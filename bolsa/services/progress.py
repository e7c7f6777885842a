"""How long work says how far it is: a callable the service is given, which a page or a test listens to."""

from collections.abc import Callable

Report = Callable[[int, int, str], None]
"""Called with how many are done, of how many (0 while nobody knows), and what is being done, in words."""


def silent(done: int, total: int, words: str) -> None:
    """A report nobody listens to."""
