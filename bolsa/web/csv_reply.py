"""A table as a CSV file to save."""

from collections.abc import Iterable

from flask import Response

from bolsa.services.house import exports


def csv_reply(name: str, heads: Iterable[str], rows: Iterable[Iterable[object]]) -> Response:
    """The answer that saves a table as `name`.csv; text in it is safe from formulas (services/house/exports.py)."""
    disposition = f'attachment; filename="{name}.csv"'.encode("ascii", "ignore").decode()
    return Response(exports.write_csv(heads, rows), mimetype="text/csv", headers={"Content-Disposition": disposition})
