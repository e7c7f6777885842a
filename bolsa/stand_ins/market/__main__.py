"""Runs the market stand-in until it is stopped."""

import argparse
import os
import sys
import threading

from bolsa.stand_ins.market.state import Market
from bolsa.stand_ins.market.wire import serve


def main() -> None:
    parser = argparse.ArgumentParser(prog="bolsa-market", description="Serve the market stand-in on loopback.")
    parser.add_argument("--port", type=int, default=0, help="the port; 0 takes a free one")
    parser.add_argument("--until-stdin-closes", action="store_true", help="end with the program that started it")
    options = parser.parse_args()
    if options.until_stdin_closes:
        threading.Thread(target=lambda: (sys.stdin.read(), os._exit(0)), daemon=True).start()
    server = serve(Market(), options.port)
    print(f"http://127.0.0.1:{server.server_address[1]}", flush=True)
    server.serve_forever()


if __name__ == "__main__":
    main()
