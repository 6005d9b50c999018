"""The rules of the job, in pure Python: no database, no network, no interface code."""
