"""Pemlo: forecast how long an animation takes to render, and make it fit."""

import os

# Nobody's plugins have a part in checking documents, and looking for them takes as long as a layer of the program.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")


__version__ = "0.1.0"
