"""What the screens share, without a toolkit: the piece on the bench, the open book, what is done with both, jobs, work in threads."""
