"""What became of the finest structure: detail, levels, and the lines of woven fields."""
