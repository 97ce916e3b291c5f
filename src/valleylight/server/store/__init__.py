"""What is kept: the database, projects and edits in it, files by content."""
