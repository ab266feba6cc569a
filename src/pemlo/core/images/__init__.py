"""Picture files: their headers, small copies of them, and what a header says of a trial. No interface code."""
