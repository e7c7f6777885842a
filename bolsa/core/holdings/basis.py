"""Suspects for basis: what makes the gain of a holding unlikely, with the repair that would mend it.

Each repair is a set of trades: those it changes or adds, and those it takes out.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from fractions import Fraction

from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.prices import MarketEvent, Priced
from bolsa.core.holdings.security import Declared
from bolsa.core.holdings.shares import find_share_suspects, position_on, shares_text, trades_of_cure
from bolsa.core.holdings.trades import BRINGS_IN, KIND_WORDS, Trade, split_shares
from bolsa.core.money import E8, digits_of
from bolsa.core.units import Money

TIMES_FAR = 3  # a cost so many times the market's price of the day, or a part of it that small, is unlikely
PERCENT_NEAR = 25  # within so much of the market's price a repaired cost is likely
DAYS_TOGETHER = 7  # a distribution, a purchase and a reinvestment of one another lie within so many days
DAYS_AFTER_SPLIT = 30  # a fraction is paid out within so many days of the split that left it
DAYS_OF_SPLIT = 10  # a split is entered within so many days of the market's

PriceOn = Callable[[date], Priced | None]


@dataclass(frozen=True)
class BasisSuspect:
    """What is unlikely, why, and what the repair is: in words, and as trades."""

    key: str
    title: str
    reason: str
    repair: str
    puts: tuple[Trade, ...] = ()
    takes_out: tuple[int, ...] = ()


def repaired(trades: Sequence[Trade], suspect: BasisSuspect) -> list[Trade]:
    """The trades as they are after a repair."""
    by_id = {trade.id: trade for trade in trades if trade.id not in suspect.takes_out}
    by_id |= {trade.id: trade for trade in suspect.puts if trade.id}
    return [*by_id.values(), *(trade for trade in suspect.puts if not trade.id)]


def find_basis_suspects(
    trades: Sequence[Trade],
    price_on: PriceOn,
    events: Sequence[MarketEvent],
    exchange: Exchange,
    today: date,
    declared: Declared | None = None,
) -> list[BasisSuspect]:
    """What is suspect about one security's trades in one account, the surest first; `declared` is what the institution listed
    last."""
    search = _Search(trades, price_on, events, exchange, today)
    found = [*search.missed_splits(), *search.told_twice(), *search.fractions()]
    if declared is not None and not any(_agrees(repaired(trades, one), declared) for one in found):
        found += search.listed_otherwise(declared)
    return [*found, *search.far_costs(), *search.without_cost()]


def _agrees(trades: Sequence[Trade], declared: Declared) -> bool:
    return position_on(trades, declared.day) == declared.shares_e8


def likely_between(exchange: Exchange, day: date | None = None) -> tuple[float, float]:
    """Between which multiples of price times shares (each times 1e8) a cost in minor units of the account surely is not far:
    reckoned quickly and narrowly, to leave out most of what `find_basis_suspects` would reckon exactly. Without a day, on all."""
    low, high = (10 ** digits_of(exchange.account) / E8 / E8 * rate for rate in exchange.roughly_into_account(day))
    return high / TIMES_FAR * 1.1, low * TIMES_FAR / 1.1


def may_be_far(total_minor: int, shares_e8: int, price_e8: int, likely: tuple[float, float]) -> bool:
    """Whether what shares cost may be far from a price of the security's."""
    low, high = likely
    return not low * price_e8 * shares_e8 < -total_minor < high * price_e8 * shares_e8


class _Search:
    def __init__(
        self, trades: Sequence[Trade], price_on: PriceOn, events: Sequence[MarketEvent], exchange: Exchange, today: date
    ):
        self.trades, self.price_on, self.events, self.exchange, self.today = trades, price_on, events, exchange, today

    def missed_splits(self) -> Iterator[BasisSuspect]:
        """A split of the market's that is not entered, while shares were held."""
        entered = [trade.day for trade in self.trades if trade.kind == "split"]
        for event in self.events:
            held = position_on(self.trades, event.day - timedelta(days=1))
            near = any(abs((day - event.day).days) <= DAYS_OF_SPLIT for day in entered)
            if event.kind != "split" or near or held <= 0 or event.day > self.today or not event.ratio_new or not event.ratio_old:
                continue
            words = f"{event.ratio_new} for {event.ratio_old}"
            added = split_shares(held, event.ratio_new, event.ratio_old)
            split = self._new(
                event.day, "split", added, ratio_new=event.ratio_new, ratio_old=event.ratio_old, reason=f"split {words}"
            )
            bare = next(
                (t for t in self.trades if t.kind == "in" and t.shares_e8 == added and self._is_near(t.day, event.day)), None
            )
            reason = f"the market split it {words} on {event.day}, and {shares_text(held)} shares were held"
            if bare is not None:
                reason += f"; the {shares_text(added)} that came in on {bare.day} without cost are what it added"
            yield BasisSuspect(
                f"split-{event.day}", f"A split {words} is not entered", reason, f"Enter the split of {event.day}", (split,),
                (bare.id,) if bare else (),
            )  # fmt: skip

    def listed_otherwise(self, declared: Declared) -> Iterator[BasisSuspect]:
        """Other shares here than the institution lists, where one change explains them."""
        for suspect in find_share_suspects(self.trades, declared.shares_e8, declared.day)[:1]:
            puts, takes_out = trades_of_cure(suspect.cure, self.trades)
            here = position_on(self.trades, declared.day)
            yield BasisSuspect(
                f"list-{suspect.key}", f"{shares_text(here)} here, {shares_text(declared.shares_e8)} listed on {declared.day}",
                f"{suspect.title}: {suspect.reason}", suspect.cure.words, puts, takes_out,
            )  # fmt: skip

    def _is_near(self, one: date, other: date) -> bool:
        return abs((one - other).days) <= DAYS_OF_SPLIT

    def _new(self, day: date, kind: str, shares_e8: int, **more: object) -> Trade:
        like = self.trades[0]
        new = Trade(day, kind, shares_e8, like.security_id, account_id=like.account_id)
        return replace(new, **more)  # type: ignore[arg-type]

    def told_twice(self) -> Iterator[BasisSuspect]:
        """A distribution that is reinvested, and beside it the cash and the purchase of the same."""
        for one in self.trades:
            if one.kind != "reinvest" or not one.total_minor:
                continue
            near = [t for t in self.trades if t.id != one.id and abs((t.day - one.day).days) <= DAYS_TOGETHER]
            cash = next((t for t in near if t.kind == "dividend" and t.total_minor == -(one.total_minor or 0)), None)
            bought = next((t for t in near if t.kind == "buy" and t.shares_e8 == one.shares_e8), None)
            double = [t for t in (cash, bought) if t is not None]
            if not double:
                continue
            names = " and ".join(f"{KIND_WORDS[t.kind]} on {t.day}" for t in double)
            yield BasisSuspect(
                f"twice-{one.id}", f"Reinvested on {one.day}, and there again",
                f"the same is {names}; what is reinvested is distribution and purchase in one",
                "Keep the reinvestment alone", takes_out=tuple(t.id for t in double),
            )  # fmt: skip

    def fractions(self) -> Iterator[BasisSuspect]:
        """Cash for the fraction a split left, booked as a distribution."""
        for split in self.trades:
            if split.kind != "split":
                continue
            fraction = position_on(self.trades, split.day) % E8
            for one in self.trades:
                days = (one.day - split.day).days
                if one.kind != "dividend" or not fraction or not 0 <= days <= DAYS_AFTER_SPLIT or not one.total_minor:
                    continue
                price = self._in_account(self.price_on(split.day), split.day)
                if price is None or not _is_like(Fraction(one.total_minor * E8, fraction), price):
                    continue
                sold = replace(one, kind="lieu", shares_e8=-fraction, taxed_minor=None, untaxed_minor=None)
                yield BasisSuspect(
                    f"fraction-{one.id}", f"{Money(one.total_minor, self.exchange.account)} on {one.day} is no distribution",
                    f"the split of {split.day} left {shares_text(fraction)} of a share, which is worth about that",
                    f"Enter it as the fraction paid out: {shares_text(fraction)} shares", (sold,),
                )  # fmt: skip

    def _in_account(self, priced: Priced | None, day: date) -> Fraction | None:
        """What one share was worth, in minor units of the account's currency."""
        if priced is None:
            return None
        own = priced.value_of(1000 * E8, self.exchange.own)
        inside = self.exchange.own_in_account(own, day)
        return Fraction(inside, 1000) if inside else None

    def far_costs(self) -> Iterator[BasisSuspect]:
        """A cost many times the market's price of its day, or a small part of it."""
        for one in self.trades:
            priced = self.price_on(one.held_since) if one.kind in BRINGS_IN and one.total_minor else None
            price = self._in_account(priced, one.held_since)
            if price is None or one.shares_e8 <= 0:
                continue
            cost = -(one.total_minor or 0)
            each = Fraction(cost * E8, one.shares_e8)
            if price / TIMES_FAR <= each <= price * TIMES_FAR:
                continue
            at_market = int(price * one.shares_e8 / E8 + Fraction(1, 2))
            found, repair = self._likely(cost, each, price, one.shares_e8, at_market)
            code = self.exchange.account
            yield BasisSuspect(
                f"cost-{one.id}", f"{shares_text(one.shares_e8)} {KIND_WORDS[one.kind]} on {one.day} for {Money(cost, code)}",
                f"that is {Money(int(each + Fraction(1, 2)), code)} a share; the market’s price of {one.held_since} was "
                f"{Money(int(price + Fraction(1, 2)), code)}",
                f"{repair}: {Money(found, code)}", (replace(one, total_minor=-found),),
            )  # fmt: skip

    @staticmethod
    def _likely(cost: int, each: Fraction, price: Fraction, shares_e8: int, at_market: int) -> tuple[int, str]:
        """What the cost should likely be, and why."""
        if _is_like(Fraction(cost), price):
            return int(Fraction(cost * shares_e8, E8) + Fraction(1, 2)), "Take it as the price of one share"
        for factor in (10, 100, 1000):
            if _is_like(each * factor, price):
                return cost * factor, f"Make it {factor} times as much"
            if _is_like(each / factor, price):
                return round(Fraction(cost, factor)), f"Make it a part in {factor}"
        return at_market, "Take the market’s price of that day"

    def without_cost(self) -> Iterator[BasisSuspect]:
        """Shares that came without a cost, though a market had a price for them."""
        for one in self.trades:
            if one.kind not in BRINGS_IN or one.total_minor is not None:
                continue
            price = self._in_account(self.price_on(one.held_since), one.held_since)
            if price is None:
                continue
            found = int(price * one.shares_e8 / E8 + Fraction(1, 2))
            words = f" ({one.reason})" if one.reason else ""
            yield BasisSuspect(
                f"bare-{one.id}", f"{shares_text(one.shares_e8)} {KIND_WORDS[one.kind]} on {one.day} without a cost",
                f"nobody said what they had cost{words}, so that all of their worth reads as gain",
                f"Take the market’s price of {one.held_since}: {Money(found, self.exchange.account)}",
                (replace(one, total_minor=-found),),
            )  # fmt: skip


def _is_like(one: Fraction, other: Fraction) -> bool:
    return abs(one - other) * 100 <= PERCENT_NEAR * other


@dataclass(frozen=True)
class ExpectedIncome:
    """A distribution the market tells of shares that are held: what it should come to, in the account's currency."""

    account_id: int
    security_id: int
    event: MarketEvent
    shares_e8: int
    amount_minor: int

    @property
    def key(self) -> str:
        return f"{self.account_id}-{self.security_id}-{self.event.day}"

    @property
    def pay_day(self) -> date:
        return self.event.pay_day or self.event.day

    def trade(self, day: date) -> Trade:
        """The trade that confirms it as it is expected."""
        return Trade(
            day, "dividend", 0, self.security_id, self.amount_minor, taxed_minor=self.amount_minor, ex_day=self.event.day,
            account_id=self.account_id,
        )  # fmt: skip


def expect_income(
    told: Sequence[tuple[MarketEvent, Mapping[int, int]]],
    incomes: Mapping[tuple[int, int], Sequence[Trade]],
    exchanges: Mapping[tuple[int, int], Exchange],
) -> list[ExpectedIncome]:
    """The distributions that nobody entered yet, by day.

    `told`: each distribution with the shares every account held the evening before; `incomes`: the distributions entered, by
    account and security, as the `exchanges` are.
    """
    found = []
    for event, holders in told:
        for account_id, held in holders.items():
            pair = (account_id, event.security_id)
            if held <= 0 or not event.amount_e8 or any(_is_of(trade, event) for trade in incomes.get(pair, ())):
                continue
            exchange, day = exchanges[pair], event.pay_day or event.day
            amount = exchange.own_in_account(Priced(day, event.amount_e8, "market").value_of(held, exchange.own), day)
            found.append(ExpectedIncome(*pair, event, held, amount or 0))
    return sorted(found, key=lambda one: (one.pay_day, one.account_id, one.security_id))


def _is_of(trade: Trade, event: MarketEvent) -> bool:
    """Whether a trade is the distribution: by its day without, else paid or reinvested about the pay day."""
    if trade.kind not in ("dividend", "reinvest"):
        return False
    if trade.ex_day is not None:
        return trade.ex_day == event.day
    day = event.pay_day or event.day
    return event.day <= trade.day <= day + timedelta(days=DAYS_AFTER_SPLIT)
