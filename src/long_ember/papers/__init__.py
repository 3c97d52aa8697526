"""What is printed: heat sheets, marks, templates, lists and cards as pages in millimetres, and their PDF; no screen is needed."""
