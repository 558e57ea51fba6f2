"""What of a character moves beside the mouth: parts, their lanes, and what is proposed for them."""
