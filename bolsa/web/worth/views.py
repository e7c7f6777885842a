"""Worth: net worth by month and by class. Story: tests/stories/test_sitting.py."""

from flask import Blueprint, Response, g, render_template

from bolsa.core.money import to_decimal
from bolsa.services.accounts.holes import list_holes
from bolsa.services.house import exports
from bolsa.services.worth import worth
from bolsa.web.worth.course import draw_course

blueprint = Blueprint("worth", __name__, template_folder="templates")


@blueprint.get("/worth")
def course() -> str:
    """Two years up to the chosen month, and every account at its end."""
    view = worth.worth_view(g.db, g.month)
    kinds = [
        (side, words, [row for row in view.rows if row.side == side])
        for side, words in (("asset", "Owned"), ("liability", "Owed"))
    ]
    return render_template(
        "worth/course.html",
        view=view,
        drawing=draw_course(view.points, view.currency) if view.rows else None,
        kinds=kinds,
        holes=list_holes(g.db, g.by.today),
    )


@blueprint.get("/worth.csv")
def as_csv() -> Response:
    """Net worth by month as CSV."""
    view = worth.worth_view(g.db, g.month, 120)
    rows = [
        (str(p.month), *(to_decimal(x, view.currency) for x in (p.owned_minor, p.owed_minor, p.net_minor))) for p in view.points
    ]
    text = exports.write_csv(["month", "owned", "owed", "net"], rows)
    return Response(text, mimetype="text/csv", headers={"Content-Disposition": 'attachment; filename="net-worth.csv"'})
