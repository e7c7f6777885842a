"""Answers: questions in words, each a sentence, a picture and a table. Stories: tests/stories/test_answers.py."""

from collections.abc import Sequence
from dataclasses import replace

from flask import Response as FlaskResponse
from flask import g, render_template, request

from bolsa.core.answers.cut import Cut
from bolsa.core.answers.questions import same_days
from bolsa.core.money import to_decimal
from bolsa.core.months import Month, months_between
from bolsa.core.whole_numbers import is_number
from bolsa.services.answers import answers
from bolsa.services.answers.answers import Named
from bolsa.web.answers.asking import DIMENSION_WORDS, STRETCHES, Asked, asked, deeper, dimension, here, skipped
from bolsa.web.answers.blueprint import blueprint
from bolsa.web.answers.pictures import draw_bars, draw_flow, draw_mini, draw_stack
from bolsa.web.csv_reply import csv_reply
from bolsa.web.pictures.columns import draw_months

QUESTIONS = (
    ("answers.where", "Where did it go?"),
    ("answers.normal", "How does a normal month look?"),
    ("answers.changed", "What changed?"),
    ("answers.grew", "What grew?"),
    ("answers.tags", "What did this tag cost?"),
    ("answers.flow", "In and out, and what stayed"),
)
MOST_PARTS = 200
MOST_BARS = 12
MOST_LAYERS = 7
PAGE = 200


@blueprint.app_template_global("ask")
def ask(**changes: object) -> str:
    """The address of this question with something changed."""
    return here(**changes)  # type: ignore[arg-type]


def _page(template: str, question: Asked, **values: object) -> str:
    """A page of an answer with what all of them show: the questions, the period, the conditions with their names."""
    return render_template(
        template,
        questions=QUESTIONS,
        question=question,
        stretches=STRETCHES,
        dimensions=DIMENSION_WORDS,
        unsorted=answers.known_unsorted(g.db),
        kept=[(str(c), answers.name_of(g.db, c)) for c in question.kept],
        left_out=[(str(c).lstrip("-"), answers.name_of(g.db, c)) for c in question.left_out],
        **values,
    )


@blueprint.get("/answers")
def questions() -> str:
    """The questions, each with what is said first when it is asked."""
    last_full = g.present + -1
    cut = Cut("spent", last_full.first_day, last_full.last_day)
    went = answers.answer(g.db, cut, "group")
    normal = answers.normal_month(g.db, g.by, "group", 12, [])
    before = cut.over((last_full + -1).first_day, (last_full + -1).last_day)
    return render_template(
        "answers/questions.html",
        questions=QUESTIONS,
        month_asked=last_full,
        went=went,
        normal=normal,
        change=answers.what_changed(g.db, before, cut, "group"),
        growth=answers.what_grew(g.db, g.by, cut.over((last_full + -11).first_day, cut.last), "category"),
        flow=answers.in_and_out(g.db, (last_full + -11).first_day, cut.last),
        tags=answers.tags_in_use(g.db),
    )


@blueprint.get("/answers/where")
def where() -> str | FlaskResponse:
    """Where it went (or came from): the parts of a period, beside the months around it."""
    question, by = asked(), dimension("group")
    found = answers.answer(g.db, question.cut, by, by_month=False)
    if _wants_csv():
        rows = [(named.name, to_decimal(named.amount_minor, found.currency)) for named in found.parts]
        return csv_reply("where", [by, "amount"], [*rows, ("all", to_decimal(found.total_minor, found.currency))])
    months = (
        question.cut.months
        if len(question.cut.months) >= 12
        else months_between(question.cut.months[-1] + -12, question.cut.months[-1])
    )
    around = answers.answer(g.db, question.cut.over(months[0].first_day, months[-1].last_day), "")
    kinds = {m: _kind(question, m) for m in months}
    return _page(
        "answers/where.html", question,
        found=found,
        by=by,
        deeper=deeper(by),
        drawing=draw_months("Month by month", around.whole.by_month, kinds, found.currency, href=_address_of_month),
        shown=found.parts[:MOST_PARTS],
        rest=_rest(found.parts[MOST_PARTS:]),
    )  # fmt: skip


def _kind(question: Asked, month: Month) -> str:
    if month not in question.cut.months:
        return "soft"
    is_cut = month.first_day < question.cut.first or month.last_day > question.cut.last
    return "half" if is_cut or month.last_day > g.by.today else "counted"


def _address_of_month(month: Month) -> str:
    """The same question about one month."""
    return here(**{"from": month.first_day.isoformat(), "to": month.last_day.isoformat()}, months=None)  # type: ignore[arg-type]


def _rest(parts: Sequence[Named]) -> tuple[int, int]:
    """How many parts are not listed, and what they come to."""
    return len(parts), sum(named.amount_minor for named in parts)


@blueprint.get("/answers/normal")
def normal() -> str | FlaskResponse:
    """A normal month: mean and median of the full months that count."""
    question, by, skip = asked(12), dimension("category"), skipped()
    months = question.months or 12
    found = answers.normal_month(g.db, g.by, by, months, skip, question.cut.conditions, question.cut.measure)
    named = found.answer
    if _wants_csv():
        rows = [
            (one.name, *(to_decimal(x, named.currency) for x in (found.mean(one.part), found.median(one.part))))
            for one in found.ordered
        ]
        whole = (to_decimal(x, named.currency) for x in (found.mean(named.whole), found.median(named.whole)))
        return csv_reply("normal-month", [by, "mean", "median"], [*rows, ("all", *whole)])
    span = [*named.cut.months, *months_between(named.cut.months[-1] + 1, g.present)]
    around = answers.answer(g.db, named.cut.over(span[0].first_day, span[-1].last_day), "")
    kinds = {m: "counted" if m in found.months else "half" if m == g.present else "soft" for m in span}
    levels = (("mean", found.mean(named.whole)), ("median", found.median(named.whole)))
    return _page(
        "answers/normal.html", question,
        normal=found,
        by=by,
        months_back=months,
        drawing=draw_months("Month by month", around.whole.by_month, kinds, named.currency, levels) if found.months else None,
        mini=draw_mini,
        shown=found.ordered[:MOST_PARTS],
        rest=(len(found.ordered[MOST_PARTS:]), sum(found.mean(one.part) for one in found.ordered[MOST_PARTS:])),
    )  # fmt: skip


@blueprint.get("/answers/changed")
def changed() -> str | FlaskResponse:
    """What made the difference between a period and the one before, or the same of a year before."""
    question, by = asked(1, last_full=True), dimension("category")
    then = 12 if request.args.get("than") == "year" else len(question.cut.months)
    last = min(question.cut.last, g.by.today) if question.is_running else question.cut.last
    after = question.cut.over(question.cut.first, max(question.cut.first, last))
    before = after.over(*same_days(after.first, after.last, then))
    change = answers.what_changed(g.db, before, after, by)
    if _wants_csv():
        rows = [
            (name, *(to_decimal(x, change.after.currency) for x in (one.before_minor, one.after_minor, one.made_minor)))
            for name, one in change.parts
        ]
        totals = (change.before.total_minor, change.after.total_minor, change.made_minor)
        return csv_reply(
            "what-changed",
            [by, "before", "after", "made"],
            [*rows, ("all", *(to_decimal(x, change.after.currency) for x in totals))],
        )
    told = [(name, one.made_minor) for name, one in change.parts if one.made_minor]
    bars = told[:MOST_BARS]
    if len(told) > MOST_BARS:
        bars.append(("All the rest", sum(amount for _, amount in told[MOST_BARS:])))
    return _page(
        "answers/changed.html", question,
        change=change,
        by=by,
        before=Asked(before, None),
        after=Asked(after, None),
        than="year" if then == 12 and request.args.get("than") == "year" else "before",
        drawing=draw_bars("What made the difference", bars, change.after.currency, ("Part", "Made")) if bars else None,
        shown=change.parts[:MOST_PARTS],
        rest=(len(change.parts[MOST_PARTS:]), sum(one.made_minor for _, one in change.parts[MOST_PARTS:])),
        largest=next((_largest_of(after, by, one.key) for name, one in change.parts if name == change.reason), None),
    )  # fmt: skip


def _largest_of(cut: Cut, by: str, key: str) -> answers.Listed | None:
    """The largest entry of the part that made most of a difference: often it is the whole reason."""
    return answers.find_largest(g.db, cut.within(by, key))


@blueprint.get("/answers/grew")
def grew() -> str | FlaskResponse:
    """The parts of a group stacked over a year, and how much each grew from its first half to its second."""
    question = asked(12)
    every = replace(question.cut, conditions=tuple(c for c in question.cut.conditions if c.dimension != "group" or c.is_left_out))
    groups = answers.answer(g.db, every, "group")
    by = dimension("category" if question.kept else "group")
    growth = answers.what_grew(g.db, g.by, question.cut, by)
    found = growth.answer
    if _wants_csv():
        months = question.cut.months
        rows = [(one.name, *(to_decimal(x, found.currency) for x in one.part.amounts(months))) for one in found.parts]
        return csv_reply("what-grew", [by, *map(str, months)], rows)
    layers = [(one.name, one.part) for one in found.parts[:MOST_LAYERS]]
    if found.parts[MOST_LAYERS:]:
        layers.append(("All the rest", answers.whole_of([one.part for one in found.parts[MOST_LAYERS:]])))
    halves = [m for m in question.cut.months if m not in growth.months]
    return _page(
        "answers/grew.html", question,
        growth=growth,
        half_keys=[f"@{half[0]}..{half[-1]}" if half else "@" for half in growth.halves],
        by=by,
        groups=groups,
        deeper=deeper(by),
        drawing=draw_stack("Parts stacked, by month", question.cut.months, layers, halves, found.currency) if layers else None,
        hue={one.part.key: place + 1 for place, one in enumerate(found.parts[:MOST_LAYERS])},
        mini=draw_mini,
        halves=halves,
    )  # fmt: skip


@blueprint.get("/answers/tags")
def tags() -> str | FlaskResponse:
    """What tags cost, by category, or by what else one likes."""
    question, by = asked(_all_months()), dimension("category")
    known = answers.tags_in_use(g.db)
    chosen = [int(text) for text in request.args.getlist("tag") if is_number(text)]
    table = answers.tag_costs(g.db, question.cut, chosen or [id_ for id_, _ in known], by)
    if _wants_csv():
        rows = [(name, *(to_decimal(x, g.household.home_currency) for x in amounts)) for _, name, amounts in table.rows]
        return csv_reply("tags", [by, *(name for _, name, _ in table.columns)], rows)
    bars = [(name, total) for _, name, total in table.columns if total][:MOST_BARS]
    return _page(
        "answers/tags.html", question,
        table=table,
        by=by,
        known=known,
        chosen=chosen,
        across=request.args.get("across") == "tags",
        drawing=draw_bars("What each tag cost", bars, g.household.home_currency, ("Tag", "Cost")) if bars else None,
    )  # fmt: skip


def _all_months() -> int:
    """From the chosen month back to the first of the books."""
    full = answers.full_months_of(g.db, g.by)
    return max(12, g.month - full[0] + 2) if full else 12


@blueprint.get("/answers/flow")
def flow() -> str | FlaskResponse:
    """What came in, went out and stayed, month by month."""
    question = asked(12)
    found = answers.in_and_out(g.db, question.cut.first, question.cut.last, question.cut.conditions)
    figures = [(found.came(m), found.went(m), found.stayed(m)) for m in found.months]
    home = g.household.home_currency
    if _wants_csv():
        rows = [(str(m), *(to_decimal(x, home) for x in figure)) for m, figure in zip(found.months, figures, strict=True)]
        return csv_reply("in-and-out", ["month", "in", "out", "stayed"], rows)
    halves = [m for m in found.months if _kind(question, m) == "half"]
    return _page("answers/flow.html", question, flow=found, halves=halves, drawing=draw_flow(found.months, figures, halves, home))


@blueprint.get("/answers/entries")
def entries() -> str | FlaskResponse:
    """The entries of a cut, in order of day."""
    question = asked()
    offset = max(0, request.args.get("after", 0, type=int))
    found = answers.list_entries(g.db, question.cut, -1 if _wants_csv() else PAGE, 0 if _wants_csv() else offset)
    home = g.household.home_currency
    if _wants_csv():
        rows = [
            (one.line.day, one.line.payee, one.line.memo, one.category, one.account, to_decimal(one.amount_minor, home))
            for one in found
        ]
        return csv_reply("entries", ["day", "payee", "memo", "category", "account", "amount"], rows)
    return _page(
        "answers/entries.html", question,
        found=found,
        total=answers.answer(g.db, question.cut, "").total_minor,
        count=answers.count_entries(g.db, question.cut),
        offset=offset,
        page=PAGE,
    )  # fmt: skip


def _wants_csv() -> bool:
    return request.args.get("format") == "csv"
