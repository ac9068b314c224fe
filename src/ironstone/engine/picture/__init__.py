"""Pictures of views, drawn without a browser or a screen."""
