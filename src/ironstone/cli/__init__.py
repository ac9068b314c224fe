"""The command line: the same engine without a window, a module for each group of commands; ``every`` has them all."""
