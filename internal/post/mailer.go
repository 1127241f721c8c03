package post

import "context"

// Mailer hands a mail to whoever delivers it.
type Mailer interface {
	Send(ctx context.Context, m Mail) error
}
