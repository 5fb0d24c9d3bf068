"""The kit's table, tables that come in, one part's picture."""
