"""The blueprint the pages of sorting share."""

from flask import Blueprint

blueprint = Blueprint("sorting", __name__, template_folder="templates")
