"""The HTTP interface: thin routers over store, pipeline and handoff."""
