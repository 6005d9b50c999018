"""Safe keeping: backups made while people work, looked over by restoring them, and brought back.

Everything a shop has is in its two databases, photos and traces too, so a backup is a dump of both in one
transaction.  Nothing here knows what the tables hold.
"""
