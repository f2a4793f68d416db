"""What every view is made of: theme, fields, lettering, glyphs, scales, lists."""
