"""How bright a colour is. Imports nothing."""

LUMA = (0.2126, 0.7152, 0.0722)  # ITU-R BT.709
