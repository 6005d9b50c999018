"""What leaves the shop on paper: the report, the worksheet, the workbook."""
