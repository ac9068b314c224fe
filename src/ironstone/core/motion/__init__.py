"""Motion: modes, their shapes held against each other, harmonic responses, transients."""
