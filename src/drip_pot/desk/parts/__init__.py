"""Small parts the window is made of: theme, icons, widgets. Knows Qt; nothing of books."""
