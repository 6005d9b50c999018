"""The open formats: the job file, the readings CSV, and the result of an analysis."""
