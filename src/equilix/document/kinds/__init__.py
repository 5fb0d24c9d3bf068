"""What parts are to people: kinds read from names, where each goes, and whole rigs put together from loose parts."""
