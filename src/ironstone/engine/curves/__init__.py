"""Questions of curves: traces against each other, named curves, test records and how they agree."""
