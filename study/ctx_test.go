package study_test

import "context"

var ctx = context.Background()
