"""The demo: the sample app Skerryline, its art and its brief."""
