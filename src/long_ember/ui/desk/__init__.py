"""What screens share: the session, the open book, deeds on it, the jobs on the bench."""
