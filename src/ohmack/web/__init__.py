"""Server-rendered pages: parse, edit, save, evaluate, render."""
