"""The web server: routes, storage, jobs and the worker process that renders."""
