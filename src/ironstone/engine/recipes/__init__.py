"""Recipes: an extraction that is stored, and run again on other files."""
