"""How a household reads and writes numbers and days. The locale's own words and patterns are formatted by the web (Babel); what
decides the meaning of something typed stands here, so that it is the same wherever it is read."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Reader:
    """A way of writing: the decimal mark, whether the day stands before the month, and the first day of the week (Monday is 0).

    `day_pattern` is how a field shows a day (strftime, numbers alone), `is_dense` says that rows stand closer.
    """

    locale: str
    label: str
    decimal_mark: str
    day_pattern: str = "%d/%m/%Y"
    day_first: bool = True
    week_start: int = 0
    is_dense: bool = False


READERS = {
    reader.locale: reader
    for reader in (
        Reader("en_IE", "English, Ireland", "."),
        Reader("en_GB", "English, Britain", "."),
        Reader("en_US", "English, United States", ".", "%m/%d/%Y", day_first=False, week_start=6),
        Reader("de_DE", "German, Germany", ",", "%d.%m.%Y"),
        Reader("fr_FR", "French, France", ","),
        Reader("es_ES", "Spanish, Spain", ","),
        Reader("it_IT", "Italian, Italy", ","),
        Reader("nl_NL", "Dutch, Netherlands", ",", "%d-%m-%Y"),
        Reader("pt_PT", "Portuguese, Portugal", ",", week_start=6),
        Reader("sv_SE", "Swedish, Sweden", ",", "%Y-%m-%d"),
        Reader("ja_JP", "Japanese, Japan", ".", "%Y/%m/%d", day_first=False, week_start=6),
    )
}
USUAL = READERS["en_IE"]
