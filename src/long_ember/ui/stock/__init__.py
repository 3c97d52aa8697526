"""The Stock screen: which bar."""
