"""What nobody means, grown with each finding, and where it is put."""

HOSTILE = (
    "", "0", "-1", "9" * 19, str(2**63), str(-(2**63) - 1), "9" * 5_000, "1e400", "NaN", "-Infinity", "²", "٣", "1.5", "0,005",
    "x", "'; DROP TABLE line; --", "<script>alert(1)</script>", "=cmd|' /C calc'!A0", "\x00", "\ud7ff\uffff", "a\r\nX: 1",
    "🜚" * 300, "9999-12", "9999-12-31", "0001-01-01", "2026-02-30", "2026-13", "31.2.2026", "%00", "../../etc/passwd",
    "{{ 7*7 }}", "new", "none", "-", "+", "1/0", "1+", "12..5", "--5", "a" * 3_000,
)  # fmt: skip
ASKED = (
    "month", "from", "to", "first", "day", "q", "text", "sort", "order", "after", "page", "state", "category", "tag", "member",
    "amount", "by", "only", "without", "every", "way", "quick", "kind", "case", "year", "method", "name", "code", "filter",
    "check", "hidden", "top", "asked", "before", "open", "account", "security", "payee", "pile", "least", "start", "new",
    "entry", "single",
)  # fmt: skip
# What an address may hold, as the demo has it.
EXAMPLES: dict[str, object] = {
    "account_id": 1, "entry_id": 1, "batch_id": 1, "row_id": 1, "connection_id": 1, "remote_id": 1, "statement_id": 1,
    "step_id": 1, "trash_id": 1, "category_id": 4, "kind": "unplaced", "key": "all", "filename": "bolsa.css",
    "job_id": "none", "attachment_id": 1, "move_id": 1, "filter_id": 1, "line_id": 1, "series_id": 1,
    "what": "skip", "pay_id": 1, "day": "2026-05-08", "security_id": 1, "trade_id": 1, "case_id": 1,
    "reminder_id": 1, "trial_id": 1, "payee_id": 1, "question_id": 1, "rule_id": 1, "tag_id": 1, "group_id": 2,
}  # fmt: skip
EMPTIES = "/house/trash/empty"  # it would leave other forms nothing to do
