"""How bright a colour is. Imports nothing."""

LUMA = (0.2126, 0.7152, 0.0722)  # ITU-R BT.709
# Added to a brightness by which noise is divided, so that black has a scale too.
DARK = 0.01
