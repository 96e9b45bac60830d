package main

import (
	"bytes"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"strings"
)

// candidatesIn gives every mutant of the files of a directory, tests left out.
func candidatesIn(dir string) []mutant {
	files, err := filepath.Glob(filepath.Join(dir, "*.go"))
	if err != nil {
		panic(err)
	}
	var all []mutant
	for _, file := range files {
		if !strings.HasSuffix(file, "_test.go") {
			all = append(all, candidatesOf(file)...)
		}
	}
	return all
}

func candidatesOf(file string) []mutant {
	source, err := os.ReadFile(file)
	if err != nil {
		panic(err)
	}
	set := token.NewFileSet()
	tree, err := parser.ParseFile(set, file, source, 0)
	if err != nil {
		panic(err)
	}
	d := &drawing{file: file, source: source, set: set}
	ast.Inspect(tree, func(n ast.Node) bool { d.node(n); return true })
	return d.mutants
}

type drawing struct {
	file    string
	source  []byte
	set     *token.FileSet
	mutants []mutant
}

// swaps are operators that are easily mistaken for each other.
var swaps = map[token.Token]token.Token{
	token.EQL: token.NEQ, token.NEQ: token.EQL, token.LSS: token.LEQ, token.LEQ: token.LSS, token.GTR: token.GEQ,
	token.GEQ: token.GTR, token.LAND: token.LOR, token.LOR: token.LAND, token.ADD: token.SUB,
}

func (d *drawing) node(n ast.Node) {
	switch n := n.(type) {
	case *ast.BinaryExpr:
		if to, known := swaps[n.Op]; known && !isText(n.X) && !isText(n.Y) {
			d.replace(n.OpPos, n.OpPos+token.Pos(len(n.Op.String())), to.String(), fmt.Sprintf("%s is %s", n.Op, to))
		}
	case *ast.IfStmt:
		if n.Init == nil && n.Else == nil {
			d.replace(n.Pos(), n.End(), "", "an if is left out")
		}
	case *ast.ExprStmt:
		d.replace(n.Pos(), n.End(), "", "a call is left out")
	case *ast.AssignStmt:
		if n.Tok == token.ASSIGN && len(n.Lhs) == 1 {
			d.replace(n.Pos(), n.End(), "", "an assignment is left out")
		}
	case *ast.CompositeLit:
		if _, isList := n.Type.(*ast.ArrayType); isList || isFamily(n.Type) {
			d.elements(n)
		}
	case *ast.CaseClause:
		if len(n.List) > 0 && len(n.Body) > 0 {
			d.replace(n.Body[0].Pos(), n.Body[len(n.Body)-1].End(), "", "a case does nothing")
		}
	case *ast.BasicLit:
		if n.Kind == token.INT && len(n.Value) < 4 {
			d.replace(n.Pos(), n.End(), n.Value+"1", n.Value+" is "+n.Value+"1")
		}
	}
}

// elements leaves each element of a list out, in turn.
func (d *drawing) elements(n *ast.CompositeLit) {
	for i, e := range n.Elts {
		to := n.Rbrace
		if i+1 < len(n.Elts) {
			to = n.Elts[i+1].Pos()
		}
		d.replace(e.Pos(), to, "", "an element of a list is left out")
	}
}

func isText(e ast.Expr) bool {
	lit, is := e.(*ast.BasicLit)
	return is && lit.Kind == token.STRING
}

func isFamily(e ast.Expr) bool {
	index, is := e.(*ast.IndexExpr)
	if !is {
		return false
	}
	name, is := index.X.(*ast.Ident)
	return is && name.Name == "family"
}

func (d *drawing) replace(from, to token.Pos, with, what string) {
	a, b := d.set.Position(from), d.set.Position(to)
	broke := bytes.Join([][]byte{d.source[:a.Offset], []byte(with), d.source[b.Offset:]}, nil)
	line, _, _ := strings.Cut(string(d.source[a.Offset:]), "\n")
	d.mutants = append(d.mutants, mutant{d.file, a.Line, what + ": " + strings.TrimSpace(line), broke})
}
