package letter_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/letter"
)

func TestLeaving(t *testing.T) {
	const post = "List-Unsubscribe-Post: List-Unsubscribe=One-Click\r\n"
	link := func(to, subject string) *letter.Link {
		return &letter.Link{To: []string{to}, Cc: []string{}, Bcc: []string{}, Subject: subject}
	}
	for _, c := range []struct {
		name, head string
		want       letter.Leaving
	}{
		{"nothing", "", letter.Leaving{}},
		{"a letter", "List-Unsubscribe: <mailto:leave@l.example?subject=leave%20me>\r\n", letter.Leaving{Letter: link("leave@l.example", "leave me")}},
		{"both, and one click", "List-Unsubscribe: <https://l.example/u?a=1>, <mailto:leave@l.example>\r\n" + post,
			letter.Leaving{OneClick: "https://l.example/u?a=1", Page: "https://l.example/u?a=1", Letter: link("leave@l.example", "")}},
		{"a page without one click", "List-Unsubscribe: <http://l.example/u>\r\n", letter.Leaving{Page: "http://l.example/u"}},
		{"one click needs https", "List-Unsubscribe: <http://l.example/u>\r\n" + post, letter.Leaving{Page: "http://l.example/u"}},
		{"folded, with comments between", "List-Unsubscribe: (leave) <https://l.example/\r\n very/long>,\r\n <mailto:leave@l.example>\r\n" + post,
			letter.Leaving{OneClick: "https://l.example/very/long", Page: "https://l.example/very/long", Letter: link("leave@l.example", "")}},
		{"scripts, files and passwords", "List-Unsubscribe: <javascript:alert(1)>, <file:///etc/passwd>, <https://me:pw@l.example/>, <data:text/html,x>, <https:///x>\r\n" + post, letter.Leaving{}},
		{"others than one receiver", "List-Unsubscribe: <mailto:a@l.example,b@l.example>, <mailto:nobody>, <mailto:c@l.example?cc=d@l.example&bcc=e@l.example>\r\n", letter.Leaving{Letter: link("c@l.example", "")}},
		{"ten and more", "List-Unsubscribe: " + strings.Repeat("<ftp://l.example/>, ", 10) + "<https://l.example/eleventh>\r\n", letter.Leaving{}},
		{"ten kilobytes of nothing", "List-Unsubscribe: " + strings.Repeat("junk ", 2000) + "<https://l.example/late>\r\n", letter.Leaving{}},
		{"without brackets", "List-Unsubscribe: https://l.example/u\r\n", letter.Leaving{}},
		{"not closed", "List-Unsubscribe: <https://l.example/u\r\n", letter.Leaving{}},
		{"too long an address", "List-Unsubscribe: <https://l.example/" + strings.Repeat("a", 3000) + ">, <https://l.example/b>\r\n", letter.Leaving{Page: "https://l.example/b"}},
	} {
		l := letter.Parse([]byte("From: news@l.example\r\nTo: me@x.example\r\n" + c.head + "\r\nText\r\n"))
		assert.Equal(t, c.want, l.Leaving, c.name)
		assert.Equal(t, c.want != letter.Leaving{}, l.Leaving.Is(), c.name)
	}
}
