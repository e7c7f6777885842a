"""Deciding what each row that was brought in is: here already, a typed entry's twin, new, or not to be told.

One booking is told by several sources, each in its own words, with its own ids, often a day apart. Where two sources cover the
same days, their bookings are one multiset (coverage.py). So all rows are given to the bookings that are here, one to one, such
that the whole is likeliest; what remains over is new:

1. a row that its own source told before, by id or word for word, is here already;
2. the others are assigned together, to lines that nobody told too: typed ones, announced ones, far sides of transfers. The cost
of a pair is −ln of how likely one booking is told that differently: its day (by what
   these two sources do otherwise), its words, its ids. Leaving a row or a booking alone costs what it costs that a source which
   covers its day forgot it. That two bookings have one amount by chance speaks for the pair, the rarer the amount the more;
3. where the next best number of pairs is nearly as likely, the row is asked about, and not taken meanwhile;
4. an entry the bank announced may be booked with another amount (pending.py);
5. a row whose id came before on its day, with another amount, is a correction: the entry here can take the bank's amount.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date
from itertools import combinations

from bolsa.core.assignment import assign, find_groups
from bolsa.core.bringing.batch import LEFT_BEFORE
from bolsa.core.bringing.bookings import Booking, Here, OpenLine, Source, Told, Verdict
from bolsa.core.bringing.likelihood import DAYS_APART_UNLIKE, LIKE_ENOUGH, PairWeights, in_one_form
from bolsa.core.bringing.pending import find_booked
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.ledger.payees import likeness
from bolsa.core.units import Money
from bolsa.core.whole_numbers import counted

UNDECIDED = 2.5  # of two readings, the likelier is less than e^2.5 (12) times as likely as the other


def asked_if_checked(verdict: Verdict, day: date, checked_until: date | None) -> Verdict:
    """A new row within days that are checked already is left out until someone says that it belongs there."""
    if verdict.kind != "new" or not verdict.take or checked_until is None or day > checked_until:
        return verdict
    return Verdict("suspicious", False, f"it was not there when the days until {checked_until} were checked")


def judge_rows(rows: Sequence[BroughtRow], here: Here, source: Source, currency: str = "EUR") -> list[Verdict]:
    """A verdict a row, in the rows' order. Every booking and every open line is used for one row at most; `source` is what the
    rows' file covers."""
    return _Judge(rows, here, source, currency).judge_all()


class _Judge:
    def __init__(self, rows: Sequence[BroughtRow], here: Here, source: Source, currency: str):
        self.rows, self.here, self.source, self.currency = rows, here, source, currency
        self.used: set[int] = set()  # keys of bookings
        self.verdicts: dict[int, Verdict] = {}

    def judge_all(self) -> list[Verdict]:
        self._find_twins()
        if self.here.bookings:
            self._find_told_alike()
        if self.here.bookings or self.here.open_lines:
            self._find_booked(by_reference=True)
            self._assign()
            self._find_parts()
            self._find_booked(by_reference=False)
            self._find_corrections()
            self._doubt_repeated()
        return [self.verdicts.get(i) or Verdict("new", True) for i in range(len(self.rows))]

    def _find_twins(self) -> None:
        """Rows of the file that stand in it twice with one id."""
        seen: dict[str, set[tuple[date, int, str]]] = {}
        for i, row in enumerate(self.rows):
            if row.bank_ref:
                said = (row.day, row.amount_minor, row.raw_text)
                before = seen.setdefault(row.bank_ref, set())
                if said in before:
                    self.verdicts[i] = Verdict("known", False, "the file holds it twice, with one bank id")
                before.add(said)

    def _find_told_alike(self) -> None:
        """Rows that their own kind of source told before with the same id, day, amount and words; then those told word for
        word."""
        by_id: dict[tuple[str, date, int, str], list[Booking]] = defaultdict(list)
        by_words: dict[tuple[date, int, str], list[tuple[Booking, Told]]] = defaultdict(list)
        for booking in self.here.bookings:
            for told in booking.told:
                words = in_one_form(told.text)
                if told.layout != self.source.layout:
                    continue  # of two layouts even the same day may be another's: one tells the purchase, one the booking
                if told.bank_ref:
                    by_id[told.bank_ref, told.day, told.amount_minor, words].append(booking)
                by_words[told.day, told.amount_minor, words].append((booking, told))
        left = []
        for i, row in enumerate(self.rows):
            if i in self.verdicts:
                continue
            words = in_one_form(row.raw_text)
            found = by_id.get((row.bank_ref, row.day, row.amount_minor, words), ()) if row.bank_ref else ()
            before = next((one for one in found if one.key not in self.used), None)
            if before:
                self._is_known(i, before, "the same bank id")
            else:
                left.append((i, words))
        for i, words in left:
            row = self.rows[i]
            for booking, told in by_words.get((row.day, row.amount_minor, words), ()):
                if booking.key not in self.used and not (told.bank_ref and row.bank_ref and told.bank_ref != row.bank_ref):
                    self._is_known(i, booking, "the same day, amount and text")
                    break

    def _is_known(self, i: int, booking: Booking, reason: str) -> None:
        self.used.add(booking.key)
        if booking.is_asked:
            self.verdicts[i] = Verdict(
                "suspicious", False, "asked about before, and not decided yet", booking.line_id, booking.key
            )
            return
        if booking.left_out:
            reason = LEFT_BEFORE
        elif booking.line_id is None:
            reason += ", in the trash"
        self.verdicts[i] = Verdict("known", False, reason, booking.line_id, booking.key)

    def _assign(self) -> None:
        """Gives the remaining rows to the remaining bookings and open lines, as many as are likeliest, and asks what is close."""
        rows = [i for i in range(len(self.rows)) if i not in self.verdicts]
        taken = {verdict.line_id for verdict in self.verdicts.values() if verdict.line_id}
        bookings = [one for one in self.here.bookings if one.key not in self.used and one.line_id not in taken]
        lines = [one for one in self.here.open_lines if one.line_id not in taken]
        scales = PairWeights(self.rows, self.here, self.source, self.verdicts)
        weights = scales.weigh([self.rows[i] for i in rows], bookings, lines)
        found: list[Booking | OpenLine] = [*bookings, *lines]
        best = assign(weights)
        fewer, more = assign(weights, UNDECIDED), assign(weights, -UNDECIDED)
        for group in find_groups(weights):
            sure, asked = _sure_and_asked(group, best, fewer, more)
            for place in sure:
                self._belongs(rows[place], found[best[place]])
            for place, column in asked:
                self._ask(rows[place], found[column])

    def _belongs(self, i: int, found: "Booking | OpenLine") -> None:
        row = self.rows[i]
        if isinstance(found, Booking) and found.left_out and all(told.layout != self.source.layout for told in found.told):
            self._ask(i, found)  # left out of another kind of file: it may be this one, or its twin
            return
        if isinstance(found, Booking):
            self._is_known(i, found, _why(row, found, self.source))
            return
        if found.is_announced:
            self.verdicts[i] = Verdict("matched", True, "announced before as pending, now booked", found.line_id)
            return
        apart = abs((found.day - row.day).days)
        when = "on the same day" if not apart else f"{counted(apart, 'day')} apart"
        if found.is_payday and found.amount_minor != row.amount_minor:
            slip = Money(found.amount_minor, self.currency)
            self.verdicts[i] = Verdict("matched", True, f"the payslip of “{found.payee}” said {slip}", found.line_id)
            return
        words = "the other side of the transfer" if found.is_far_side else "entered before as"
        self.verdicts[i] = Verdict("matched", True, f"{words} “{found.payee}”, {when}", found.line_id)

    def _ask(self, i: int, found: "Booking | OpenLine") -> None:
        if isinstance(found, Booking):
            self.used.add(found.key)
            near = min(found.told, key=lambda told: abs((told.day - self.rows[i].day).days))
            what = "you left out" if found.left_out else "is here already"
            reason = f"it may be the booking of {near.day} that {what}; bring it in if it is another one"
            self.verdicts[i] = Verdict("suspicious", False, reason, found.line_id, found.key)
        else:
            reason = f"it may be “{found.payee}”, entered for {found.day}; match it, or bring it in if it is another one"
            self.verdicts[i] = Verdict("suspicious", False, reason, found.line_id)

    def _find_parts(self) -> None:
        """Two rows of one day that make up the far side of a transfer: a loan tells of the whole payment, and of its interest."""
        claimed = {verdict.line_id for verdict in self.verdicts.values()}
        left = [i for i in range(len(self.rows)) if i not in self.verdicts]
        for line in self.here.open_lines:
            if not line.is_far_side or line.line_id in claimed:
                continue
            near = [i for i in left if i not in self.verdicts and abs((self.rows[i].day - line.day).days) <= DAYS_APART_UNLIKE]
            pairs = [(i, j) for i, j in combinations(near, 2) if _make_up(self.rows[i], self.rows[j], line)]
            if len(pairs) == 1:
                for i, j in (pairs[0], pairs[0][::-1]):
                    other = Money(self.rows[j].amount_minor, self.currency)
                    reason = f"with {other} it makes up “{line.payee}”, entered for {line.day}"
                    self.verdicts[i] = Verdict("matched", True, reason, line.line_id)

    def _find_booked(self, *, by_reference: bool) -> None:
        """Rows that are announced entries, now booked: by the bank's reference, or with another amount."""
        claimed = {verdict.line_id for verdict in self.verdicts.values()}
        announced = [line for line in self.here.open_lines if line.is_announced and line.line_id not in claimed]
        left = [i for i in range(len(self.rows)) if i not in self.verdicts] if announced else []
        found = find_booked([self.rows[i] for i in left], announced, self.currency, by_reference=by_reference)
        self.verdicts |= {left[place]: verdict for place, verdict in found.items()}

    def _find_corrections(self) -> None:
        """Rows of a booking the bank told with another amount before: here already, and to be cured."""
        by_id: dict[tuple[str, date], list[tuple[Booking, Told]]] = defaultdict(list)
        for booking in self.here.bookings:
            for told in booking.told:
                if told.bank_ref and told.layout == self.source.layout and booking.line_id and not booking.left_out:
                    by_id[told.bank_ref, told.day].append((booking, told))
        for i, row in enumerate(self.rows) if by_id else ():
            if i in self.verdicts or not row.bank_ref:
                continue
            for booking, told in by_id.get((row.bank_ref, row.day), ()):
                if booking.key not in self.used and likeness(told.text, row.raw_text) >= LIKE_ENOUGH:
                    before = Money(told.amount_minor, self.currency)
                    self._is_known(
                        i, booking, f"the bank corrected it: {before} before, {Money(row.amount_minor, self.currency)} now"
                    )
                    break

    def _doubt_repeated(self) -> None:
        """Marks new rows that another row of the file repeats, where the other is a booking that a further kind of source told of
        that day, all of whose bookings it tells: the bank may have sent it twice."""
        by_key = {one.key: one for one in self.here.bookings}
        said: dict[tuple[date, int, str], list[int]] = defaultdict(list)
        for i, row in enumerate(self.rows):
            said[row.day, row.amount_minor, in_one_form(row.raw_text)].append(i)
        for places in (places for places in said.values() if len(places) > 1):
            known = [by_key.get(verdict.known_id or 0) for i in places if (verdict := self.verdicts.get(i))]
            if any(one and self._is_told_once(one, self.rows[places[0]].day) for one in known):
                for i in places:
                    if i not in self.verdicts:
                        self.verdicts[i] = Verdict("suspicious", True, "another file that covers this day has it only once")

    def _is_told_once(self, booking: Booking, day: date) -> bool:
        elsewhere = {told.layout for told in booking.told if told.layout != self.source.layout and told.day == day}
        return any(one.layout in elsewhere and one.chance(day) == 1.0 for one in self.here.covered)


def _make_up(one: BroughtRow, other: BroughtRow, line: OpenLine) -> bool:
    """Whether two rows of a day, one in and one out, come to a line."""
    opposite = (one.amount_minor < 0) != (other.amount_minor < 0)
    return opposite and one.day == other.day and one.amount_minor + other.amount_minor == line.amount_minor


def _sure_and_asked(
    group: list[int], best: Mapping[int, int], fewer: Mapping[int, int], more: Mapping[int, int]
) -> tuple[list[int], list[tuple[int, int]]]:
    """Of rows that hang together: those that surely have their column, and those to be asked about, each with the column.

    Rows that are alike may change places from one solution to the other, so it is their number that says how sure they are.
    """
    given = [place for place in group if place in best]
    doubted = len(given) - sum(place in fewer for place in group)
    asked = sorted((place for place in given if place not in fewer), reverse=True)[: max(0, doubted)]
    sure = [place for place in given if place not in asked]
    missing = sum(place in more for place in group) - len(given)
    free = [(place, more[place]) for place in group if place in more and place not in best][: max(0, missing)]
    return sure, [*((place, best[place]) for place in asked), *free]


def _why(row: BroughtRow, booking: Booking, source: Source) -> str:
    """Why a row is a booking, in words."""
    near = min(booking.told, key=lambda told: (abs((told.day - row.day).days), told.layout != source.layout))
    apart = abs((near.day - row.day).days)
    if near.bank_ref and near.bank_ref == row.bank_ref and near.layout == source.layout:
        return "the same bank id"
    days = "the same day and amount" if not apart else f"the same amount, {counted(apart, 'day')} apart"
    return f"{days}, from another kind of file" if near.layout != source.layout else f"{days}, from another file"
