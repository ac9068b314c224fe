"""Questions of several results: a reading of one less the same of another, and what a value comes to as the mesh is refined."""
