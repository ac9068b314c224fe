"""The report: what was found in a review, as one file that a stranger can read and check."""
