package say

import "time"

var (
	weekdays = []Word{"Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"}
	months   = []Word{"January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"}
	short    = []Word{"Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"}
)

// Weekday is the day of the week of a time.
func Weekday(t time.Time) Word { return weekdays[t.Weekday()] }

// Month is the month of a time.
func Month(t time.Time) Word { return months[t.Month()-1] }

// Day is a day with its time, "Mon 2 Jan 2006, 15:04".
func Day(t time.Time) Message {
	return Of("time/day", short[t.Weekday()], t.Day(), short[6+t.Month()], t.Year(), t.Format("15:04"))
}
