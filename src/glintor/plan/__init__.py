"""The day as a whole: timetable, variety, kit check, the sheet to take along."""
