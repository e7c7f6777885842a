"""The blueprint the pages of the house share."""

from flask import Blueprint

blueprint = Blueprint("house", __name__, template_folder="templates")
