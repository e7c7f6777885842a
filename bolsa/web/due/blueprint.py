"""The blueprint the pages of dues share."""

from flask import Blueprint

blueprint = Blueprint("due", __name__, template_folder="templates")
