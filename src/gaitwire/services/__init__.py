"""Use cases, shared by the pages, the command line, the demo and the tests."""
