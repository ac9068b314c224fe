"""The service behind the bench: thin; it parses, calls the engine, and answers."""
