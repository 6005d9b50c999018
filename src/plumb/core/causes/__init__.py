"""What can be wrong with an engine: the faults as data, and the form of what a procedure shows of them."""
