"""The Shelf: art, archives and phrases, in and out."""
