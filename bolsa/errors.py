"""Everything that can go wrong and that a person can do something about.

BolsaError                 has a sentence to show and perhaps the form field it belongs to
├── InvalidInput           what was typed cannot be taken as it stands
├── NotFound               there is no such thing (any more)
├── NotAllowed             it would break a promise, such as changing a reconciled line
├── Conflict               it changed meanwhile
├── UnreadableFile         a file is not what it says; names line, column and the text found
├── FileUnusable           the household's file, or the disk, cannot be used now
└── ServiceUnavailable     an outside service did not answer well; may be tried again

Anything else that is raised (ValueError, TypeError, AssertionError) is a bug of ours.
"""


class BolsaError(Exception):
    """A sentence for a person, with the `field` of the form it belongs to, if there is one."""

    default = "That did not work."

    def __init__(self, sentence: str = "", *, field: str | None = None):
        super().__init__(sentence or self.default)
        self.field = field

    @property
    def sentence(self) -> str:
        return str(self)


class InvalidInput(BolsaError):
    default = "That cannot be taken as it stands."


class NotFound(BolsaError):
    default = "There is no such thing here."


class NotAllowed(BolsaError):
    default = "That is locked."


class Conflict(BolsaError):
    """It changed meanwhile. `step_id` is the journal step that stands in the way of an undo, where one does."""

    default = "It changed meanwhile. Reload the page and look again."
    step_id: int | None = None


class UnreadableFile(BolsaError):
    """A file that cannot be read: `line` and `column` count from 1, `found` is the offending text."""

    default = "The file cannot be read."

    def __init__(self, sentence: str = "", *, line: int | None = None, column: int | None = None, found: str = ""):
        place = f"Line {line}" + (f", column {column}" if column else "") + ": " if line else ""
        shown = f" Found: “{found[:60]}”." if found else ""
        super().__init__(f"{place}{sentence or self.default}{shown}")
        self.line, self.column, self.found = line, column, found


class FileUnusable(BolsaError):
    default = "The household’s file cannot be used now."


class ServiceUnavailable(BolsaError):
    default = "The other side does not answer. Try again in a little while."
