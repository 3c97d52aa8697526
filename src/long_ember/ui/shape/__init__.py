"""The Shape screen, and dialogs that reckon shapes."""
