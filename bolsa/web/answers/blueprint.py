"""The blueprint the pages of answers share."""

from flask import Blueprint

blueprint = Blueprint("answers", __name__, template_folder="templates")
