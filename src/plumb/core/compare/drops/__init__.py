"""What injectors gave, compared: the sheet that drop, running balance and flow bench share."""
