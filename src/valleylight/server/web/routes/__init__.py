"""The REST routes and the WebSocket, one file a subject."""
