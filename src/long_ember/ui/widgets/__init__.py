"""Parts that any screen may use: entries, buttons, questions, work in a thread."""
