"""What is kept: SQLite by plain SQL. One thread writes, each write is one transaction; readers have their own connections."""
