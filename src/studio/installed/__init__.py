"""The site installed on a phone: its name and pictures, and what it keeps for when there is no net."""
