"""Sort: proposed transfers, then piles, one open. Stories: tests/stories/test_sitting.py, tests/stories/test_sorting.py."""

from collections import Counter
from collections.abc import Collection, Sequence
from typing import Any

from flask import g, make_response, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.sorting.rules import SharePart
from bolsa.core.sorting.transfers import Pair
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts
from bolsa.services.changes import Done
from bolsa.services.house import sessions
from bolsa.services.ledger.registers import clean_tag
from bolsa.services.sorting import asking, categories, rule_offers, sorting, splitting, transferring
from bolsa.services.sorting.sorting import Pile, ToSort
from bolsa.services.sorting.transferring import PairIds
from bolsa.web.forms import Message, parse_id, parse_ids, parse_optional_id, tell, tell_all, tell_problem
from bolsa.web.sorting.blueprint import blueprint
from bolsa.web.sorting.rule_form import read_part, size_of

SURE = 0.9
LEVELS = (95, 90, 80, 70)  # per cent from which on certain ones can be filed together
PILES_SHOWN = 40
PARTS = 3  # that a split is offered
NO_PART = (None, "")
Parts = Sequence[tuple[int | None, str]]  # of a split as typed: category, and amount or per cent


@blueprint.get("/sort")
def piles() -> str:
    """The proposed transfers, then the piles; `pile` opens another than the biggest, `single` decides its entries one by one."""
    only = number_of(request.args.get("split", ""))
    return _piles_page(request.args.get("pile", ""), ticked={only} if only else set())


def _piles_page(chosen: str, *, ticked: Collection[int] = (), parts: Parts = (), split_error: str = "") -> str:
    """The piles with one open; where it is being split, with the entries that are ticked and the parts as typed."""
    todo = sorting.what_to_sort(g.db, suggest_for=PILES_SHOWN)
    pairs = _together(todo.transfers) if todo.transfers and not chosen else []
    opened = None if pairs or not todo.piles else next((p for p in todo.piles if p.key == chosen), todo.piles[0])
    before = splitting.split_before(g.db, opened.payee_id, opened.currency) if opened and not parts else ()
    parts = parts or [(part.category_id, size_of(part, opened.currency)) for part in before if opened]
    typed = [part for part in parts if part != NO_PART]
    fields = typed + [NO_PART] * max(PARTS - len(typed), 1)
    shown = _shown(todo, opened) | {"ticked": ticked, "parts": fields, "split_error": split_error, "was_split": bool(before)}
    return render_template("sorting/piles.html", **shown, pairs=pairs)


def _together(transfers: tuple[Pair, ...]) -> list[Pair]:
    """The surest transfer and those of its kind, which are decided together."""
    return [pair for pair in transfers if pair.kind == transfers[0].kind]


def _shown(todo: ToSort, opened: Pile | None) -> dict[str, Any]:
    kept = accounts.list_accounts(g.db)
    names = categories.names_of(g.db)
    filed = {**names} | {-a.id: f"Transfer with {a.name}" for a in kept}
    near = sorting.near_piles(g.db, todo, opened) if opened else []
    asked = Counter(question.member for question in todo.asked)
    return {
        "todo": todo,
        "open": opened,
        "single": bool(request.args.get("single")),
        "names": filed,
        "groups": categories.list_by_group(g.db),
        "accounts": kept,
        "by_id": {a.id: a for a in kept},
        "asked": asked,
        "sure": sum(len(p.as_certain_as(SURE)) for p in todo.piles),
        "most": PILES_SHOWN,
        "near": near,
        "near_count": sum(len(p.entries) for p in near),
        "after": todo.after(opened.key) if opened else None,
        "sorters": sessions.list_members(g.db),
    }


@blueprint.post("/sort/file")
def file_pile() -> Response:
    """Files the entries that are ticked: under a category, in parts, as transfers with an account; or puts them to a member."""
    form = request.form
    ids = parse_ids(form, "entry_id")
    if not ids:
        tell_problem("Tick at least one entry of the pile")
        return _on()
    if form.get("way") == "nothing":
        tell_problem("Bolsa has no suggestion here: choose by 1 to 5, or press c and a few letters of the category")
        return _on()
    try:
        done = _decide(form, ids)
    except InvalidInput as error:
        if error.field == "split":
            typed = zip(form.getlist("part"), form.getlist("size"), strict=False)
            parts = [(number_of(category), size) for category, size in typed]
            page = _piles_page(form.get("stay", ""), ticked=ids, parts=parts, split_error=error.sentence)
            return make_response(page, {"HX-Reswap": "outerHTML show:none"})  # the sentence stands where one is
        tell_problem(error.sentence)
        return _on()
    _tell_with_offer(done, ids, form)
    return _on()


def _decide(form: MultiDict, ids: list[int]) -> Done:
    """Does what a pile's form says. A choice is a category, or less than 0 a transfer; what is picked goes before it."""
    if form.get("way") == "ask":
        return asking.ask(g.db, g.by, ids, parse_id(form, "ask"), form.get("note", ""))
    if form.get("way") == "split":
        return splitting.split_entries(g.db, g.by, ids, _parts_of(form), form.get("currency", ""))
    picked, account_id = parse_optional_id(form, "other_id"), parse_optional_id(form, "account_id")
    choice = form.get("category_id", "")
    if account_id is None and choice.startswith("-") and is_number(choice[1:]):
        account_id = int(choice[1:])
    if account_id is not None and picked is None:
        return transferring.file_as_transfer(g.db, g.by, ids, account_id, parse_optional_id(form, "set_by"))
    tag = clean_tag(form["tag"]) if form.get("tag", "").strip("# ") else ""
    category_id = picked if picked is not None else parse_id(form, "category_id")
    member_id = parse_optional_id(form, "for_member")
    return sorting.file_entries(g.db, g.by, ids, category_id, tag=tag, note=form.get("note", ""), member_id=member_id)


def _parts_of(form: MultiDict) -> list[SharePart]:
    """The parts of a split that have a category; sizes are in the pile's currency."""
    typed = zip(form.getlist("part"), form.getlist("size"), strict=False)
    return [read_part(category, size, form.get("currency", ""), "split") for category, size in typed if category or size.strip()]


def _tell_with_offer(done: Done, ids: list[int], form: MultiDict) -> None:
    """Says what was done; where something else was suggested, with the offer of a rule beside it."""
    suggested = form.get("suggested", "")
    chosen = form.get("other_id") or form.get("category_id", "")
    offer = rule_offers.offer_after(g.db, ids[0]) if suggested and chosen and chosen != suggested else None
    if offer is None:
        tell(done.sentence, done)
        return
    words = f"Make it a rule, {offer.would_follow} past would follow" if offer.would_follow else "Make it a rule"
    tell_all((Message(done.sentence, done.step_id, url_for("sorting.rule_list", new=1, entry=ids[0]), words),))


def _on() -> Response:
    """To the piles: the one that was open while it is there, else the biggest."""
    stay = request.form.get("stay", "")
    single = 1 if request.form.get("single") else None
    return redirect(url_for("sorting.piles", pile=stay or None, single=single), code=303)


@blueprint.post("/sort/sure")
def file_sure() -> Response:
    """Files every entry whose suggestion is at least that certain."""
    level = request.form.get("least", "")
    least = int(level) / 100 if is_number(level) and int(level) in LEVELS else SURE
    done = sorting.file_sure(g.db, g.by, least)
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("No suggestion is that certain")
    return redirect(url_for("sorting.piles"), code=303)


@blueprint.get("/sort/certain")
def certain() -> str:
    """What filing all that are certain would do, by category, before it is done."""
    asked = request.args.get("least", LEVELS[1], type=int)
    least = asked if asked in LEVELS else LEVELS[1]
    todo = sorting.what_to_sort(g.db)
    shown = _shown(todo, None)
    found = todo.certain_at(least / 100)
    total = sum(one.entry_count for one in found)
    return render_template("sorting/certain.html", found=found, total=total, least=least, levels=LEVELS, **shown)


@blueprint.post("/sort/transfer")
def merge_transfer() -> Response:
    """Makes transfers of the pairs that are ticked, or says that they are none."""
    form = request.form
    try:
        pairs = _pairs(form)
        if form.get("way") == "refuse":
            done = transferring.refuse(g.db, g.by, pairs)
        else:
            done = transferring.merge_many(g.db, g.by, pairs, parse_optional_id(form, "set_by"), parse_optional_id(form, "fee"))
        tell(done.sentence, done)
    except InvalidInput as error:
        tell_problem(error.sentence)
    return redirect(url_for("sorting.transfer_list") if form.get("from") == "transfers" else url_for("sorting.piles"), code=303)


def _pairs(form: MultiDict) -> list[PairIds]:
    """The pairs a form names as "out-into" or "out-into-more"."""
    found = []
    for text in form.getlist("pair"):
        ids = [int(part) for part in text.split("-") if is_number(part)]
        if len(ids) not in (2, 3):
            raise InvalidInput("A transfer is named by its two entries.")
        found.append(PairIds(*ids))
    return found


@blueprint.post("/sort/apart")
def keep_apart() -> Response:
    """Parts a spelling from the shop it was joined with, or says that shops near each other are different ones."""
    others = parse_ids(request.form, "other_id")
    payee_id = parse_id(request.form, "payee_id")
    if others:
        done = sorting.refuse_near(g.db, g.by, payee_id, others)
    else:
        done = sorting.keep_apart(g.db, g.by, payee_id)
    tell(done.sentence, done)
    return redirect(url_for("sorting.piles"), code=303)


@blueprint.get("/sort/transfers")
def transfer_list() -> str:
    """Transfers: those proposed, those likely filed as something else, halves that stand alone, and those of the month, to be
    parted."""
    return render_template(
        "sorting/transfers.html",
        pairs=sorting.what_to_sort(g.db, suggest_for=0).transfers,
        misfiled=transferring.list_misfiled(g.db, g.by.today),
        lone=transferring.list_lone(g.db, g.by.today),
        joined=transferring.list_joined(g.db, g.present.first_day, g.present.last_day),
        names=categories.names_of(g.db),
        groups=categories.list_by_group(g.db),
    )


@blueprint.post("/sort/transfers/part")
def part_transfer() -> Response:
    """Makes a transfer its two sides again."""
    try:
        done = transferring.part_transfer(g.db, g.by, parse_id(request.form, "entry_id"))
        tell(done.sentence, done)
    except InvalidInput as error:
        tell_problem(error.sentence)
    return redirect(url_for("sorting.transfer_list"), code=303)


@blueprint.post("/sort/transfers/mend")
def mend_transfer() -> Response:
    """Makes one transfer of two entries that were filed as something else."""
    form = request.form
    done = transferring.make_of_filed(g.db, g.by, parse_id(form, "out"), parse_id(form, "into"))
    tell(done.sentence, done)
    return redirect(url_for("sorting.transfer_list"), code=303)
