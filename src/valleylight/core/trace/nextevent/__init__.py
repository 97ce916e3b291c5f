"""Next-event estimation: rays towards light, and what they pass on the way."""
