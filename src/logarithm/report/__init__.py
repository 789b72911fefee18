"""Results rendered: each as a document, and a document as text, Markdown or a page; figures beside it.

Nothing is computed here, no logbook is read, and nothing is measured.
"""
