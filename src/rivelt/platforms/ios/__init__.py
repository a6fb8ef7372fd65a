"""iOS and iPadOS: app targets of Xcode projects, their asset catalogs, storyboards and property lists."""
