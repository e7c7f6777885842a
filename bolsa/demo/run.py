"""Serving the demo: the household's file is made if it is not there, and the stand-ins run beside the application."""

import subprocess
import sys
from contextlib import closing
from pathlib import Path

from bolsa.core.known import known
from bolsa.demo.banks import INSTITUTIONS, write_scenario
from bolsa.demo.build import build_household
from bolsa.demo.letters import LETTERS
from bolsa.services.house import files, past, sessions
from bolsa.stand_ins.mail.state import write_letters
from bolsa.web.serving import serve

FOLDER = Path("demo")


def prepare_demo(path: Path, *, fresh: bool = False) -> None:
    """Makes the demo household's file, if it is not there or is to be made afresh."""
    if fresh:
        for ending in ("", "-shm"):
            Path(f"{path}{ending}").unlink(missing_ok=True)
        for left in files.list_left_beside(path):
            left.unlink()
    with closing(files.make_file(path)) as db:
        if sessions.find_household(db) is None:
            build_household(db)


def start_bank(folder: Path, port: int = 0) -> tuple[subprocess.Popen, str]:
    """Starts the bank stand-in as a process of its own; gives it and its address."""
    scenario = folder / "bank.json"
    write_scenario(scenario)
    return _start("bolsa.stand_ins.bank", "--scenario", str(scenario), "--port", str(port))


def start_market(port: int = 0) -> tuple[subprocess.Popen, str]:
    """Starts the market stand-in as a process of its own; gives it and its address."""
    return _start("bolsa.stand_ins.market", "--port", str(port))


def _start(module: str, *options: str) -> tuple[subprocess.Popen, str]:
    command = [sys.executable, "-m", module, *options, "--until-stdin-closes"]
    process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    return process, known(process.stdout).readline().strip()


def point_connections(path: Path, bank_url: str) -> None:
    """Tells the household's connections where the stand-in answers now."""
    with closing(files.make_file(path)) as db:
        past.move_connections(db, {name: f"{bank_url}/{key}" for key, name in INSTITUTIONS.items()})


def run_demo(data: Path | None, *, fresh: bool, port: int | None) -> None:
    """Serves the demo household until stopped."""
    path = data or FOLDER / "alkyon.bolsa"
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    prepare_demo(path, fresh=fresh)
    bank, bank_url = start_bank(path.parent)
    market, market_url = start_market()
    try:
        point_connections(path, bank_url)
        write_letters(path.parent / "mail", LETTERS)
        print(f"The bank stand-in is at {bank_url} (user noor, password ferry); what goes wrong there is switched on its page")
        print(f"The market stand-in is at {market_url}")
        print(f"Brokers' letters lie in {path.parent / 'mail'}")
        serve(path, port=port, bank_url=bank_url, market_url=market_url, mail_folder=path.parent / "mail")
    finally:
        for process in (bank, market):
            process.terminate()
            process.wait()
