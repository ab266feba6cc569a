"""Review movies from finished or trial frames."""
