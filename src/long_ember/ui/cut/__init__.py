"""The Cut screen."""
