"""Reading and writing of curve tables: text to cells, cells to columns, columns to a Recording."""
