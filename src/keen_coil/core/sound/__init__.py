"""What a recording of a running unit tells: its speed by the blade tone, hum, and signs of bearings and rub."""
