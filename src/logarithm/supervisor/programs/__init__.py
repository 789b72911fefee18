"""Contenders that are programs in other languages: built, started, asked, ended."""
