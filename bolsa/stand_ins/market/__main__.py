"""Runs the market stand-in until it is stopped."""

from bolsa.stand_ins.market.state import Market
from bolsa.stand_ins.market.wire import serve
from bolsa.stand_ins.serving import parser_of, run


def main() -> None:
    options = parser_of("bolsa-market", "Serve the market stand-in on loopback.").parse_args()
    run(serve(Market(), options.port), until_stdin_closes=options.until_stdin_closes)


if __name__ == "__main__":
    main()
