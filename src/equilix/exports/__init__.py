"""What goes out for people: the sheet, tables of a build and of the kit."""
