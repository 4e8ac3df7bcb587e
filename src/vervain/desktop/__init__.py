"""The window: the only package that knows Qt."""
