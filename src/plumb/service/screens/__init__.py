"""What each screen shows: sheets, jobs and traces as views."""
