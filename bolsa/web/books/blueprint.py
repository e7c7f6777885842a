"""The blueprint the modules of Books share."""

from flask import Blueprint

blueprint = Blueprint("books", __name__, template_folder="templates")
