"""Pages in HTML that need nothing else. Imports `report.contents` and `report.figure`."""
