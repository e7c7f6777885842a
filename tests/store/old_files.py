"""Small households of every schema there was, written by the steps of that schema and kept under tests/files: run this for a new
step, `python -m tests.store.old_files`. Files that are there are left as they are."""

import gzip
import tempfile
from contextlib import closing
from pathlib import Path

from bolsa.store import migrate
from bolsa.store.connection import atomic, open_database
from tests.store.test_migrations import FIRST_HOUSEHOLD

FOLDER = Path(__file__).parent.parent / "files"
# What an earlier schema kept that later ones keep otherwise: (from this schema on, rows).
MORE = (
    (2, """INSERT INTO account (id, name, kind, side, everyday, currency, group_name, opened_on)
            VALUES (3, 'Van', 'vehicle', 'asset', 0, 'EUR', 'Property', '2026-01-01');
        INSERT INTO entry (id, day, payee_id, origin) VALUES (3, '2026-05-04', 1, 'value');
        INSERT INTO line (id, entry_id, account_id, category_id, currency, amount_minor, day, state)
            VALUES (5, 3, 3, NULL, 'EUR', 700000, '2026-05-04', 'cleared'),
                   (6, 3, NULL, (SELECT id FROM category WHERE role = 'market'), 'EUR', -700000, '2026-05-04', NULL);
        INSERT INTO value_note (account_id, day, amount_minor, source, entry_id) VALUES (3, '2026-05-04', 700000, 'hand', 3);"""),
    (3, """INSERT INTO security (id, name) VALUES (1, 'Tern Robotics');
        INSERT INTO account (id, name, kind, side, everyday, currency, group_name, opened_on)
            VALUES (4, 'Depot', 'brokerage', 'asset', 0, 'EUR', 'Invested', '2026-01-01');
        INSERT INTO share_move (account_id, security_id, day, kind, shares_e8, total_minor)
            VALUES (4, 1, '2026-02-01', 'buy', 500000000, -20000);"""),
    (6, """INSERT INTO series (id, account_id, payee_id, category_id, rrule, start_day, short_month, weekend, amount_minor,
            amount_kind, tolerance_days, tolerance_percent)
        VALUES (1, 1, 1, 4, 'FREQ=MONTHLY', '2026-05-02', 'last', 'stay', -2340, 'fixed', 3, 0);"""),
)  # fmt: skip


TRADES = 9
LOT = """
    INSERT INTO lot
    SELECT account_id, security_id, 0, id, day, shares_e8, -total_minor, -total_minor, -total_minor, 1 FROM trade"""


def path_of(number: int) -> Path:
    return FOLDER / f"schema-{number:04d}.bolsa.gz"


def write(number: int) -> None:
    """Writes the file of a schema: the first household, what came with later ones, up to that schema."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.bolsa"
        with closing(open_database(path)) as db:
            db.execute("PRAGMA page_size = 1024")
            for step, _ in migrate.list_steps():
                if step > number:
                    break
                migrate.migrate(db, until=step)
                if step == TRADES:  # which no step can reckon
                    db.execute(LOT)
                for since, rows in ((1, FIRST_HOUSEHOLD), *MORE):
                    if since == step:
                        with atomic(db):
                            for statement in migrate.statements(rows):
                                db.execute(statement)
            db.execute("PRAGMA journal_mode = DELETE")
            db.execute("VACUUM")
        FOLDER.mkdir(exist_ok=True)
        path_of(number).write_bytes(gzip.compress(path.read_bytes(), 9, mtime=0))


if __name__ == "__main__":
    for number, _ in migrate.list_steps():
        if not path_of(number).exists():
            write(number)
