"""The book's file: opening, saving, watching, recovering."""
