"""What screens, cards and cut files show of a build, in numbers and in the workshop's words."""
