{"format": "bonemoss-tool", "version": 1, "settings": {"tool": "raise", "size": 3}}
