package postoffice

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// takes is how long it takes to tell that a letter was delivered.
const takes = time.Minute

// delivered tells a sender that a letter is in its receiver's mailbox (RFC 3464).
func delivered(sender, to string, l letter.Letter, at time.Time) Coming {
	const boundary = "delivered"
	told := at.Add(takes)
	raw := fmt.Sprintf("From: The post office <postmaster@post.example>\r\nTo: <%[1]s>\r\nSubject: Delivered\r\nDate: %[2]s\r\n"+
		"Message-ID: <delivered-%[3]s-%[4]s>\r\nIn-Reply-To: <%[4]s>\r\nReferences: <%[4]s>\r\nAuto-Submitted: auto-replied\r\nMIME-Version: 1.0\r\n"+
		"Content-Type: multipart/report; report-type=delivery-status; boundary=\"%[5]s\"\r\n\r\n"+
		"--%[5]s\r\nContent-Type: text/plain; charset=utf-8\r\n\r\nYour letter was delivered to %[3]s.\r\n"+
		"--%[5]s\r\nContent-Type: message/delivery-status\r\n\r\nReporting-MTA: dns; post.example\r\n\r\n"+
		"Original-Recipient: rfc822; %[3]s\r\nFinal-Recipient: rfc822; %[3]s\r\nAction: delivered\r\nStatus: 2.1.5\r\nLast-Attempt-Date: %[2]s\r\n"+
		"--%[5]s\r\nContent-Type: text/rfc822-headers\r\n\r\nMessage-ID: <%[4]s>\r\n--%[5]s--\r\n",
		sender, told.Format(time.RFC1123Z), to, l.MessageID, boundary)
	return Coming{To: sender, After: takes, Raw: []byte(raw)}
}
