"""An account's statements are a chain: one is open at a time, and a reconciled one keeps the one that it opens from."""

from bolsa.core.checking.check import Period, seam_between
from bolsa.core.checking.statement import Statement
from bolsa.errors import Conflict


def require_chained(name: str, was: list[Statement], chain: list[Statement]) -> None:
    """Asks of an account's statements, oldest first, whether they may change from what they were to what they are.

    Raises: Conflict if two are open, if a reconciled one lost the one it opens from or that closes otherwise now, and if one was
    reconciled that adjoins the one before and opens with another amount.
    """
    if sum(s.state == "open" for s in chain) > 1:
        raise Conflict(f"Another statement of {name} is being checked. Finish it, or give it up, first.")
    links_before = {one.id: link for one, link in _links(was) if one.state == "reconciled"}
    for one, (before_id, is_unlike) in _links(chain):
        known = links_before.get(one.id)
        if one.state != "reconciled" or known == (before_id, is_unlike):
            continue
        if known is None and is_unlike:
            raise Conflict(
                f"The statement to {one.closing_day} does not open with what the one before closed with. "
                "Mend its opening balance, or say on which day it begins."
            )
        if known is not None and (known[0] != before_id or is_unlike):
            raise Conflict(f"The statement to {one.closing_day} builds on this one. Reopen that and give it up first.")


def _links(chain: list[Statement]) -> list[tuple[Statement, tuple[int, bool]]]:
    """Every statement with the id of the one before it (0: none) and whether it adjoins that and opens otherwise."""
    return [(b, (a.id, _is_unlike(a, b)) if a else (0, False)) for a, b in zip([None, *chain], chain, strict=False)]


def _is_unlike(before: Statement, after: Statement) -> bool:
    first, second = (Period(s.closing_day, s.opening_minor, s.closing_minor, s.opening_day) for s in (before, after))
    return before.closing_minor != after.opening_minor and seam_between(first, second).startswith("does not open")
