"""Ironstone Ridge: the bench where finite element results are reviewed."""

__version__ = "0.1.0"
