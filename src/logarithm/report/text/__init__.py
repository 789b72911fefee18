"""Reports as text: for the terminal, as Markdown, as JUnit XML."""
