"""The puppet's model: parts, bones, and the rules for editing them."""
