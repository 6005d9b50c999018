"""Hidden engines: faults that nobody sees, gauges that read them, and somebody who follows the next step."""
