"""Pages in HTML that need nothing else. Imports `report.documents` and `report.figure`."""
