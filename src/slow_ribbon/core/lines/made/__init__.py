"""Lines made from others, or from typed words: walks, lines beside others and midway between them, the edges of strips."""
