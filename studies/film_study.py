"""Hold every value of a film against the same made anew, after thousands of random edits and undos.

./dev film [edits] [seed]    so many edits (10 000 unless told) of a rich small film with pictures, in chains of 200;
                             after each, four of its values are made anew of the whole project

Any that differ are printed with the edit before.
"""

import sys
import tempfile
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from film_edits import FITS, Editing, few_options, rich_film, wrong_after
from pemlo.core.cost import chains
from pemlo.core.film.film import Film

EDITS, CHAIN = 10_000, 200


def main() -> None:
    edits = int(sys.argv[1]) if len(sys.argv) > 1 else EDITS
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    chains.PACES = {float("inf"): (200, 10, 2)}  # what is drawn is tested elsewhere
    random, wrong, began = np.random.default_rng(seed), 0, time.monotonic()
    with few_options():
        for number, first in enumerate(range(0, edits, CHAIN)):
            with tempfile.TemporaryDirectory() as folder:
                editing = Editing(Film(rich_film(Path(folder)), Path(folder)), [seed, number])
                for what, value in wrong_after(editing, min(CHAIN, edits - first), random):
                    wrong += 1
                    print(f"chain {number}: after “{what}” the {value} is not as made anew", flush=True)
            FITS.clear()
    took = time.monotonic() - began
    print(f"{edits} edits with seed {seed}, {took / 60:.0f} min: {wrong} values were not as made anew")
    sys.exit(wrong > 0)


if __name__ == "__main__":
    main()
