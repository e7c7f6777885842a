"""Runs the bank stand-in until it is stopped."""

from pathlib import Path

from bolsa.stand_ins.bank.state import Bank
from bolsa.stand_ins.bank.wire import serve
from bolsa.stand_ins.serving import parser_of, run


def main() -> None:
    parser = parser_of("bolsa-bank", "Serve the bank stand-in on loopback.")
    parser.add_argument("--scenario", type=Path, required=True, help="the JSON file with institutions and their accounts")
    options = parser.parse_args()
    run(serve(Bank.from_file(options.scenario), options.port), until_stdin_closes=options.until_stdin_closes)


if __name__ == "__main__":
    main()
