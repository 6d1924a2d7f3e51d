"""The Send-off, and stills."""
