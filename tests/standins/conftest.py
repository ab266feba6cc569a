import os
from pathlib import Path

# The compiled code is kept between runs of the tests, but apart from what the user's own program keeps.
os.environ.setdefault("PEMLO_CACHE_FOLDER", str(Path.home() / ".cache/pemlo-tests"))
