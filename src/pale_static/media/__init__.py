"""Files in and out: video, stills and macro packages."""
