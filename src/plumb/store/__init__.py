"""What is kept, in MariaDB: vehicles, jobs, sheets, readings, gauges. No arithmetic that decides."""
