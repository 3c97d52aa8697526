"""The Mark screen."""
