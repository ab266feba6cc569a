"""Shows two pictures: reads them, paints them, moves in them."""
