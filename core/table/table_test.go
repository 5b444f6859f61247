package table_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/table"
)

func TestATableIsRead(t *testing.T) {
	require.Equal(t, map[string]string{"a": "1", "b": "two, three"}, table.Of("key,value\na,1\nb,\"two, three\"\n"))
	for _, wrong := range []string{"key,value\na,1\na,2\n", "key,value\na\n", "key,value,more\na,1,2\n"} {
		require.Panics(t, func() { table.Of(wrong) }, wrong)
	}
}
