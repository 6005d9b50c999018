"""The command at each plug, by a test lamp."""
