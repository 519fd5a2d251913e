"""The Desk: marking, signing, and the log of every act."""
