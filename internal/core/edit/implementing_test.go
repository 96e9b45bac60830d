package edit

import "go/types"

// implementing names the types of a package that implement an interface of it.
func implementing(pkg *types.Package, named string) []string {
	want := pkg.Scope().Lookup(named).Type().Underlying().(*types.Interface)
	var names []string
	for _, name := range pkg.Scope().Names() {
		object, isType := pkg.Scope().Lookup(name).(*types.TypeName)
		if !isType || object.IsAlias() || types.IsInterface(object.Type()) {
			continue
		}
		if types.Implements(object.Type(), want) || types.Implements(types.NewPointer(object.Type()), want) {
			names = append(names, name)
		}
	}
	return names
}
