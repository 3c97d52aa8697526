"""The Heats screen."""
