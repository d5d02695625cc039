package articles_test

import "context"

var ctx = context.Background()
