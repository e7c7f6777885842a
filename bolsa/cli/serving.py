"""Commands that serve pages or measure: demo, serve, bench. What they need is imported when they run: scripts should not wait."""

import argparse

from bolsa.cli.common import Commands, path_of
from bolsa.errors import InvalidInput


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    demo = commands.add("demo", run_demo)
    demo.add_argument("--fresh", action="store_true", help="begin the demo anew, forgetting what was done in it")
    demo.add_argument("--port", type=int, default=None, help="the port on loopback (0 takes a free one)")
    serve = commands.add("serve", run_serve)
    serve.add_argument("--host", default="127.0.0.1", help="a loopback address; others are refused until there is a sign-in")
    serve.add_argument("--port", type=int, default=None, help="the port (0 takes a free one)")
    bench = commands.add("bench", run_bench, as_json=True)
    bench.add_argument("--soak", action="store_true", help="live households at random beside a model instead of measuring")
    bench.add_argument("--load", action="store_true", help="let thirty read and five write at once instead")
    bench.add_argument("--learning", action="store_true", help="judge suggestions on noisy households, month by month, instead")
    bench.add_argument("--identity", action="store_true", help="bring one truth in through files of six layouts instead")
    bench.add_argument("--households", type=int, default=200, metavar="N", help="into how many households")
    bench.add_argument("--fuzz", action="store_true", help="send hostile requests to copies of the demo instead of measuring")
    bench.add_argument("--minutes", type=float, default=10, metavar="N", help="how long to send them")
    bench.add_argument("--steps", type=int, default=20_000, metavar="N", help="how many steps of such lives")
    bench.add_argument("--seed", type=int, default=None, metavar="N", help="the first life's seed; drawn otherwise, and printed")
    bench.add_argument("--sizes", default="10000,100000,500000", help="how many entries, comma-separated")


def run_demo(options: argparse.Namespace) -> None:
    from bolsa.demo.run import run_demo as run

    run(options.data, fresh=options.fresh, port=options.port)


def run_serve(options: argparse.Namespace) -> None:
    from bolsa.web.serving import serve

    serve(path_of(options), host=options.host, port=options.port)


def run_bench(options: argparse.Namespace) -> int:
    from bolsa import bench

    if options.load:
        from bolsa.bench import load

        return load.run()
    if options.learning:
        bench.judge_suggestions(options.seed)
        return 0
    if options.identity:
        return bench.identify(options.households, options.seed)
    if options.fuzz:
        return bench.fuzz(options.minutes, options.seed)
    if options.soak:
        return bench.soak(options.steps, options.seed)
    try:
        sizes = [int(size) for size in options.sizes.split(",")]
    except ValueError as error:
        raise InvalidInput("Sizes are whole numbers, such as 10000,100000.") from error
    bench.run(sizes, as_json=options.json)
    return 0
