package gtkcss_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
)

// TestRules: what a sheet writes, rule by rule, whatever its blanks, comments and at-rules.
func TestRules(t *testing.T) {
	require.Equal(t, []gtkcss.Rule{
		{Selectors: []string{"window", ".view > text:not(:hover, .a)"}, Tells: []gtkcss.Tell{{"color", "mix(@a, red, 0.5)", 5}, {"border", "1px solid", 6}}, Line: 3},
		{Selectors: []string{"a"}, Tells: []gtkcss.Tell{{"background-image", `url("x;y{}.png")`, 9}}, Line: 9},
		{Selectors: []string{"b"}, Line: 10},
	}, gtkcss.Rules([]byte(`@import url("a.css"); @define-color x shade(@y, 1.1);
@keyframes k { from { color: red } to { color: blue } }
window /* all */,  .view
  > text:not(:hover, .a) {
  color:  mix(@a, red, 0.5) ;
  border: 1px
    solid;
}
a{background-image:url("x;y{}.png")}
b { ; }
c {`))[:3])
	require.Equal(t, "a > b:hover", gtkcss.Selector(" a /* x */ >\n b:hover "))
	for _, broken := range []string{"", "}", "{", "a", "a {", "@x", "@x {", "a { b", "}}}} a { b: c }", "a,,b{}", "((((", "a { ( } b {}"} {
		gtkcss.Rules([]byte(broken))
	}
}
