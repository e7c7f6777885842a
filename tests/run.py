"""Runs everything in two processes, the stories beside the rest, and ends with a line that counts it."""

import concurrent.futures
import io
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).parent.parent
FOLDERS = ("checks", "core", "store", "formats", "services", "web", "stories")


def run_folders(folders: tuple[str, ...]) -> tuple[int, int, int, str]:
    """Runs the tests of some folders; gives how many passed, failed and were skipped, and what was said."""
    said = io.StringIO()
    suite = unittest.TestSuite(
        unittest.TestLoader().discover(str(ROOT / "tests" / folder), top_level_dir=str(ROOT)) for folder in folders
    )
    result = unittest.TextTestRunner(stream=said, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return result.testsRun - failed - len(result.skipped), failed, len(result.skipped), said.getvalue()


def main(wanted: list[str]) -> int:
    chosen = tuple(folder for folder in FOLDERS if not wanted or folder in wanted)
    halves = [tuple(f for f in chosen if f != "stories"), tuple(f for f in chosen if f == "stories")]
    with concurrent.futures.ProcessPoolExecutor(2) as pool:
        results = list(pool.map(run_folders, [half for half in halves if half]))
    for *_, said in results:
        print(said)
    passed, failed, skipped = (sum(result[i] for result in results) for i in range(3))
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
