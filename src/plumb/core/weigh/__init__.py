"""All sheets of a job weighed together: facts, the table of verdicts, what comes next."""
