"""The small farm: machines of a brief that render a plan, by a clock of their own, and go wrong as farms do."""
