package delivery

// Released is what is known of a letter that a delivery let in, when that is to
// be taken back.
type Released struct {
	// LaterCame tells that more came to its conversation since.
	LaterCame bool
	// Tied tells that its conversation holds a letter of that delivery which does
	// more than come: a report, an invitation, one that joins others.
	Tied bool
	// Decided tells that something was done with the conversation since, Expected
	// with an answer that is waited for in it, Moved that a letter went out of it or
	// into it, Joined that another conversation leads to it.
	Decided, Expected, Moved, Joined bool
	// Followed tells that a follow-up came of a letter of that delivery, Leaving and
	// Drafted that a letter is written in the conversation.
	Followed, Leaving, Drafted bool
	// Reached tells that it came to an account that is open now, so that it would
	// come again at once.
	Reached bool
}

// HeldAgain tells whether the letter can be held again, as if it had not come:
// nobody has worked with it since, and nothing hangs on it.
func (r Released) HeldAgain() bool { return r == Released{} }

// Waits tells whether something that is due, such as a return, waits for the next
// delivery: only its day was meant, and none reaches it now.
func Waits(day, reached bool) bool { return day && !reached }
