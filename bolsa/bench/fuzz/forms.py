"""The forms of the pages as a browser would send them: what a visitor could do, gathered from the pages themselves."""

from dataclasses import dataclass, replace
from html.parser import HTMLParser
from urllib.parse import urlsplit

FILLED = {
    "name": "Quay thing", "payee": "Quay Books", "missing_payee": "Quay Books", "amount": "12.50", "missing_amount": "-12.50",
    "quick": "quay books 4.20 groceries", "day": "2026-05-12", "missing_day": "2026-04-12", "closing": "1",
    "closing_day": "2026-05-13", "words": "Call the yard", "title": "Quay thing", "rate": "0.09", "member": "Quay",
    "group": "Living", "price": "12.5", "opening": "10", "known_on": "2026-01-01", "pasted": "2025-11-30;4000", "shares": "3",
    "reason": "counted", "value": "123456",
}  # fmt: skip


@dataclass(frozen=True)
class Form:
    """Where a form goes, its fields as they stand with the button that is pressed, and the page it stands on."""

    action: str
    fields: tuple[tuple[str, str], ...]
    page: str = ""

    def with_values(self, **values: str) -> "Form":
        """The form with other values in some fields; the first of each name."""
        left, fields = dict(values), []
        for name, value in self.fields:
            fields.append((name, left.pop(name, value)))
        return replace(self, fields=(*fields, *left.items()))


class _Forms(HTMLParser):
    def __init__(self, page: str):
        super().__init__()
        self.page = page
        self.found: list[Form] = []
        self.fields: list[tuple[str, str]] | None = None
        self.by_id: dict[str, list[tuple[str, str]]] = {}
        self.select: str | None = None
        self.option: str | None = None
        self.textarea: list[str] | None = None
        self.radios: set[str] = set()
        self.buttons: list[tuple[str, str]] = []
        self.spoken = False  # whether the chosen option says its value in words

    def handle_starttag(self, tag, attributes):
        given = dict(attributes)
        if tag == "form":
            self.action = given.get("action") or self.page
            self.fields = [] if given.get("method", "get") == "post" or "hx-post" in given else None
            self.action = given.get("hx-post") or self.action
            self.buttons, self.radios = [], set()
        if self.fields is None or "disabled" in given:
            return
        name, kind = given.get("name"), given.get("type", "text")
        if tag == "input" and name and kind in ("checkbox", "radio"):
            first = kind == "radio" and name not in self.radios
            self.radios.add(name)
            if "checked" in given:
                self.fields = [one for one in self.fields if kind != "radio" or one[0] != name]
            if "checked" in given or first:
                self.fields.append((name, given.get("value", "on")))
        elif tag == "input" and name and kind not in ("file", "submit"):
            self.fields.append((name, given.get("value") or FILLED.get(name, "")))
        elif tag == "button" and name:
            self.buttons.append((name, given.get("value", "")))
        elif tag == "select" and name:
            self.select, self.option = name, None
        elif (
            tag == "option"
            and self.select
            and ("selected" in given or (self.option is None and given.get("value") not in (None, "")))
        ):
            self.option = given.get("value", self.option)
        elif tag == "textarea" and name:
            self.textarea = [name, ""]

    def handle_data(self, data):
        if self.textarea:
            self.textarea[1] += data
        if self.spoken:
            self.option, self.spoken = data.strip(), False

    def handle_endtag(self, tag):
        if tag == "select" and self.select and self.fields is not None:
            self.fields.append((self.select, self.option or ""))
            self.select = None
        elif tag == "textarea" and self.textarea and self.fields is not None:
            name, text = self.textarea
            self.fields.append((name, text.strip() or FILLED.get(name, "")))
            self.textarea = None
        elif tag == "form" and self.fields is not None:
            filled = self._once_filled(self.fields)
            for more in [[button] for button in self.buttons] or [[]]:
                self.found.append(Form(urlsplit(self.action).path, (*filled, *more), self.page))
            self.fields = None

    @staticmethod
    def _once_filled(fields: list[tuple[str, str]]) -> list[tuple[str, str]]:
        """The fields; where a form has several of a name, those that stood empty stay so."""
        names = [name for name, _ in fields]
        return [(name, "" if names.count(name) > 1 and value == FILLED.get(name) else value) for name, value in fields]


def forms_of(page: str, html: str) -> list[Form]:
    """The forms of a page that change something, each once for every button."""
    reader = _Forms(page)
    reader.feed(html)
    return reader.found
