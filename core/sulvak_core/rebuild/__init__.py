"""Running the route: from a document to bodies and a report, rebuilding only what changed."""
