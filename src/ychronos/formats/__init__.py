"""Reading and writing files: projects, JAMS, charts as text and PDF."""
