package remote

// Server is where a mail server is reached; see the package post for how.
type Server struct {
	Host     string `json:"host" maxLength:"300"`
	Port     int    `json:"port"`
	Security string `json:"security" enum:"tls,starttls,plain" doc:"plain only for servers on this machine"`
}
