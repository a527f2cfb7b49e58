package main

import (
	"fmt"
	"net/url"

	"github.com/knadh/koanf/parsers/toml/v2"
	"github.com/knadh/koanf/providers/file"
	"github.com/knadh/koanf/v2"

	"ebbe.example/ebbe/internal/app"
)

// providersOf reads where people can sign in instead of giving a password; none without a
// file.
func providersOf(path string) ([]app.Provider, error) {
	if path == "" {
		return nil, nil
	}
	k := koanf.New(".")
	if err := k.Load(file.Provider(path), toml.Parser()); err != nil {
		return nil, &exit{usageCode, fmt.Errorf("read where people sign in, of %s: %w", path, err)}
	}
	var list []app.Provider
	if err := k.Unmarshal("sign-in", &list); err != nil {
		return nil, &exit{usageCode, fmt.Errorf("read where people sign in, of %s: %w", path, err)}
	}
	for i, p := range list {
		if p.Name == "" || p.ClientID == "" || len(p.Hosts) == 0 {
			return nil, &exit{usageCode, fmt.Errorf("%s: entry %d needs a name, hosts and a client-id", path, i+1)}
		}
		for _, at := range []string{p.AuthorizeURL, p.TokenURL} {
			if u, err := url.Parse(at); err != nil || u.Scheme != "https" || u.Host == "" {
				return nil, &exit{usageCode, fmt.Errorf("%s: %s needs the addresses authorize and token, over https", path, p.Name)}
			}
		}
	}
	return list, nil
}
