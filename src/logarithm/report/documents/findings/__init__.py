"""Documents of findings: sentences, tables and charts of text of what a run found."""
