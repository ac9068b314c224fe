"""Questions of forces: the load balance, planes and faces, members, sense checks."""
