"""From the verdict to the finished job: what it costs, what was done, and whether it helped."""
