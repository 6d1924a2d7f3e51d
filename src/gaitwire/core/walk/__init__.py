"""Walking: a stride made from a card, whose planted feet do not move."""
