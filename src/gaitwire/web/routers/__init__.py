"""Views, one file a page."""
