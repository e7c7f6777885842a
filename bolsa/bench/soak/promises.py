"""What a verb may promise of the figures before and after it."""

from collections.abc import Callable

from bolsa.bench.soak.model import Figures

Promise = Callable[[Figures, Figures], str]  # of the figures before and after: what is broken, "" if nothing
ALL = ("balances", "worth", "unplaced", "spent", "left")


def same(*names: str) -> Promise:
    """The promise that figures stay as they are."""

    def kept(before: Figures, after: Figures) -> str:
        differing = [one for one in after.differences(before) if one.split(" ", 1)[0] in names]
        return f"it moved {'; '.join(differing)}" if differing else ""

    return kept


def moved(by_account: dict[int, int]) -> Promise:
    """The promise that the balances of some accounts move by so much, and no others at all."""

    def kept(before: Figures, after: Figures) -> str:
        for account_id, balance in after.balances.items():
            more = balance - before.balances.get(account_id, 0)
            if more != by_account.get(account_id, 0):
                return f"account {account_id} moved by {more}, not {by_account.get(account_id, 0)}"
        return ""

    return kept
