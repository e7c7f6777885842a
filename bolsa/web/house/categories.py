"""Categories: all of them with what each holds and how it is used; one changed, merged, deleted; many written at once; tags.
Story: tests/stories/test_categories.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.errors import Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.budget import budgeting
from bolsa.services.sorting import categories as category_service
from bolsa.services.sorting import category_moves, tagging
from bolsa.web.forms import parse_id, parse_version, tell, tell_problem
from bolsa.web.house.blueprint import blueprint


@blueprint.get("/house/categories")
def categories() -> str:
    """The categories by group, with what each holds and how often it is used."""
    return _categories_page(None, MultiDict())


def _categories_page(error: Exception | None, typed: MultiDict) -> str:
    groups = category_service.list_by_group(g.db)
    use = category_moves.list_use(g.db, g.by.today)
    kept = [one for _, members in groups for one in members]
    return render_template(
        "house/categories.html",
        groups=groups,
        group_ids={group.name: group.id for group in category_service.list_groups(g.db)},
        total=len(kept),
        use=use,
        left={row.category_id: row.left_minor for row in budgeting.budget_view(g.db, g.by, g.month).budget.rows},
        never=[one for one in kept if not use[one.id].lines],
        retired=[one for one in category_service.list_all(g.db) if one.retired],
        group_names=[group.name for group in category_service.list_groups(g.db)],
        error=error,
        typed=typed,
        understood=None,
    )


@blueprint.post("/house/categories")
def add_category() -> tuple[str, int] | Response:
    """Adds a category."""
    form = request.form
    try:
        done = category_service.add_category(
            g.db, g.by, form.get("group", ""), form.get("name", ""), form.get("type", "spending")
        )
    except InvalidInput as error:
        return _categories_page(error, form), 400
    tell(f"{form['name']} is added", done)
    return redirect(url_for("house.categories"), code=303)


@blueprint.get("/house/categories/lines")
def category_lines() -> str:
    """The form in which many categories are written at once."""
    return render_template("house/lines.html", error=None, text="", understood=None)


@blueprint.post("/house/categories/lines")
def write_lines() -> str | tuple[str, int] | Response:
    """What lines of categories say; with `way=add` they are added."""
    text = request.form.get("lines", "")
    try:
        understood = category_moves.understand_lines(g.db, text)
        if request.form.get("way") != "add":
            return render_template("house/lines.html", error=None, text=text, understood=understood)
        done = category_moves.add_lines(g.db, g.by, text)
    except InvalidInput as error:
        return render_template("house/lines.html", error=error, text=text, understood=None), 400
    tell(done.sentence, done)
    return redirect(url_for("house.categories"), code=303)


@blueprint.get("/house/categories/<int:category_id>")
def category(category_id: int) -> str:
    """A category's form, and what hangs on it."""
    return _category_page(category_id, None)


def _category_page(category_id: int, error: Exception | None) -> str:
    kept = category_service.get_category(g.db, category_id)
    return render_template(
        "house/category.html",
        kept=kept,
        groups=[group.name for group in category_service.list_groups(g.db)],
        by_group=category_service.list_by_group(g.db),
        held=category_moves.held_by(g.db, category_id),
        error=error,
        seen=changes.version_of(g.db, "category", category_id),
    )


@blueprint.post("/house/categories/<int:category_id>")
def change_category(category_id: int) -> tuple[str, int] | Response:
    """Renames a category, moves it, or sets its rules."""
    form = request.form
    flags = {name: form.get(name) == "1" for name in ("in_budget", "carries", "carries_minus", "retired")}
    try:
        done = category_service.change_category(
            g.db,
            g.by,
            category_id,
            form.get("group", ""),
            seen=parse_version(form),
            name=form.get("name", ""),
            note=form.get("note", ""),
            **flags,
        )
    except InvalidInput as error:
        return _category_page(category_id, error), 400
    tell(f"{form['name']} is changed", done)
    return redirect(url_for("house.categories"), code=303)


@blueprint.post("/house/categories/<int:category_id>/end")
def end_category(category_id: int) -> tuple[str, int] | Response:
    """Merges a category into another, or deletes it."""
    form = request.form
    try:
        if form.get("way") == "delete":
            done = category_moves.delete_category(g.db, g.by, category_id, seen=parse_version(form))
        else:
            done = category_moves.merge_category(g.db, g.by, category_id, parse_id(form, "into"), seen=parse_version(form))
    except (InvalidInput, Conflict) as error:
        return _category_page(category_id, error), 409 if isinstance(error, Conflict) else 400
    tell(done.sentence, done)
    return redirect(url_for("house.categories"), code=303)


@blueprint.post("/house/categories/<int:category_id>/move")
def move_category(category_id: int) -> Response:
    """Moves a category up or down in its group's order of priority."""
    category_service.move_category(g.db, g.by, category_id, -1 if request.form.get("way") == "up" else 1)
    return redirect(url_for("house.categories"), code=303)


@blueprint.post("/house/groups/<int:group_id>")
def change_group(group_id: int) -> Response:
    """Renames a group, or moves it up or down."""
    form = request.form
    try:
        if form.get("way") in ("up", "down"):
            done = category_moves.move_group(g.db, g.by, group_id, -1 if form["way"] == "up" else 1)
        else:
            done = category_moves.rename_group(g.db, g.by, group_id, form.get("name", ""))
        tell(done.sentence, done)
    except InvalidInput as error:
        tell_problem(error.sentence)
    return redirect(url_for("house.categories"), code=303)


@blueprint.get("/house/tags")
def tags() -> str:
    """The tags with what each is for, its line of the tax form, and how often it is used."""
    return render_template("house/tags.html", rows=tagging.list_rows(g.db), error=None, wrong_id=0)


@blueprint.post("/house/tags/<int:tag_id>")
def change_tag(tag_id: int) -> tuple[str, int] | Response:
    """Changes a tag, retires it, merges it into another, or takes it off everything."""
    form = request.form
    try:
        if form.get("way") == "remove":
            done = tagging.remove_tag(g.db, g.by, tag_id)
        else:
            said = tagging.Said(
                form.get("name", ""),
                form.get("note", ""),
                form.get("tax_line", ""),
                form.get("tax_copy", ""),
                form.get("retired") == "1",
            )
            done = tagging.change_tag(g.db, g.by, tag_id, said, seen=parse_version(form))
    except (InvalidInput, Conflict) as error:
        page = render_template("house/tags.html", rows=tagging.list_rows(g.db), error=error, wrong_id=tag_id)
        return page, 409 if isinstance(error, Conflict) else 400
    tell(done.sentence, done)
    return redirect(url_for("house.tags"), code=303)
