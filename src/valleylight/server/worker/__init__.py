"""The process that renders, and answers what needs the compiled core."""
