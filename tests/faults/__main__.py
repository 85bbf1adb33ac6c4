"""The long round: `python -m tests.faults --runs 200 --seed 1`."""

from __future__ import annotations

import random
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated

import typer

from tests.faults import on_arrivals, on_meddling, on_plans, on_server


def main(
    runs: Annotated[int, typer.Option(help="Rounds of each kind of fault in plans.")] = 200,
    seed: Annotated[int, typer.Option(help="Same seed, same choices; the moments of kills differ.")] = 1,
) -> None:
    """Prints runs, faults and losses of every kind of fault. Exits with 1 if anything was lost."""
    lost = 0
    scenarios = (
        (on_plans.killed, runs),
        (on_plans.filled, max(4, runs // 2)),
        (on_plans.pulled, runs),
        (on_plans.inside, max(4, runs // 2)),
        (on_plans.binned, max(4, runs // 4)),
        (on_meddling.meddled, runs),
        (on_arrivals.arriving, max(4, runs // 4)),
        (on_server.marking, max(4, runs // 4)),
        (on_server.scanning, max(4, runs // 10)),
    )
    for scenario, count in scenarios:
        with TemporaryDirectory(prefix="faults-") as name:
            tally = scenario(Path(name), random.Random(seed), count)
        print(tally, flush=True)
        for loss in tally.losses[:20]:
            print("   ", loss, flush=True)
        lost += len(tally.losses)
    sys.exit(lost > 0)


if __name__ == "__main__":
    typer.run(main)
