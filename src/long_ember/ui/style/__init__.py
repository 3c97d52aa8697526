"""Type and colours."""
