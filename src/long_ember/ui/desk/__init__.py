"""What every screen stands on: the session, the open book, work in a thread."""
