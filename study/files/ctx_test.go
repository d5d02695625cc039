package files_test

import "context"

var ctx = context.Background()
