"""From what all sheets showed to what is wrong: faults weighed, the complaint explained, what to do next."""
