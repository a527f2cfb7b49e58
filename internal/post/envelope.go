package post

import "github.com/emersion/go-smtp"

// Envelope is from whom and to whom a letter goes (RFC 5321, 2.3.1).
type Envelope struct {
	From string
	To   []string
	// Notify asks to be told what becomes of it for each recipient, where the service offers
	// that (RFC 3461); ID names it in what is told then.
	Notify bool
	ID     string
}

// mail is what is asked for the letter, and rcpt what for a recipient; nothing of it is said
// to a service that does not offer it.
func (e Envelope) mail() *smtp.MailOptions {
	if !e.Notify {
		return nil
	}
	return &smtp.MailOptions{Return: smtp.DSNReturnHeaders, EnvelopeID: e.ID}
}

func (e Envelope) rcpt(to string) *smtp.RcptOptions {
	if !e.Notify {
		return nil
	}
	return &smtp.RcptOptions{
		Notify:                []smtp.DSNNotify{smtp.DSNNotifySuccess, smtp.DSNNotifyDelayed, smtp.DSNNotifyFailure},
		OriginalRecipientType: smtp.DSNAddressTypeRFC822, OriginalRecipient: to,
	}
}
