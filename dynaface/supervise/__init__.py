"""Everything that ./dev start runs, kept up: a PostgreSQL cluster of our own, the web server, the job workers."""
