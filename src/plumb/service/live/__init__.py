"""What goes on by itself: instruments that fill sheets in, and screens that hear of changes."""
