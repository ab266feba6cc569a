"""The window. `main_window.py` is the frame, `common/` what stages share, then one folder a stage."""
