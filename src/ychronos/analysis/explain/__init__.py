"""Why a thing is read as it is, and what differs: made when they are asked for."""
