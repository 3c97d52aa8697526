"""What is done with the open book, and with the jobs in it."""
