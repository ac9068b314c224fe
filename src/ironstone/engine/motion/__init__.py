"""Questions of motion: modes, shapes held against each other, frequency responses, shares of modes, transients."""
