"""The mover as JavaScript, translated from the very source of the kernels, so that a page in a browser moves
by the same whole numbers.

Only what the kernels use is translated: whole numbers, loops, rows of arrays. JavaScript's numbers hold whole
ones up to 2^53 exactly; a product that is divided afterwards goes by way of BigInt where it is larger.
"""

from __future__ import annotations

import ast
import inspect

from rushweed.core.walk import edge_kernels, kernels, side_kernels, terms, top_kernels

MODULES = (edge_kernels, side_kernels, top_kernels, kernels)
PRELUDE = """\
const shareOf = (a, b, c) => {
  const product = a * b;
  if (Number.isSafeInteger(product)) return Math.floor(product / c);
  return Number(floorBig(BigInt(a) * BigInt(b), BigInt(c)));
};
const floorBig = (a, b) => (a % b !== 0n && a < 0n !== b < 0n ? a / b - 1n : a / b);
"""
OPERATORS = {
    ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.BitAnd: "&", ast.BitOr: "|", ast.LShift: "<<",
    ast.Eq: "===", ast.NotEq: "!==", ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=",
}  # fmt: skip
SIMPLE = {"abs": "Math.abs", "min": "Math.min", "max": "Math.max", "bool": "Boolean"}


def mover_script() -> str:
    """Constants and functions of the mover, as they are called in the kernels."""
    names = sorted(name for name in vars(terms) if name.isupper() and isinstance(getattr(terms, name), int))
    constants = ", ".join(f"{name} = {getattr(terms, name)}" for name in names)
    bodies = [ast.parse(inspect.getsource(one)).body for one in MODULES]
    functions = [_Function(n).text() for body in bodies for n in body if isinstance(n, ast.FunctionDef)]
    return f"const {constants};\n{PRELUDE}" + "\n".join(functions)


class _Function:
    """Translates one function; a construct that is not known here raises NotImplementedError."""

    def __init__(self, node: ast.FunctionDef) -> None:
        self._node = node
        self._known = {argument.arg for argument in node.args.args}
        assigned = {n.id for n in ast.walk(node) if isinstance(n, ast.Name) and isinstance(n.ctx, ast.Store)}
        self._own = sorted(assigned - self._known)

    def text(self) -> str:
        arguments = ", ".join(argument.arg for argument in self._node.args.args)
        lines = [f"function {self._node.name}({arguments}) {{"]
        if self._own:
            lines.append(f"  let {', '.join(self._own)};")
        lines += self._block(self._node.body, "  ")
        return "\n".join([*lines, "}"])

    def _block(self, body: list[ast.stmt], indent: str) -> list[str]:
        return [line for statement in body for line in self._statement(statement, indent)]

    def _statement(self, node: ast.stmt, indent: str) -> list[str]:
        inner = indent + "  "
        match node:
            case ast.Expr(ast.Constant()):
                return []
            case ast.Expr(value):
                return [f"{indent}{self._value(value)};"]
            case ast.Assign([target], value):
                return [f"{indent}{self._assigned(target, value)};"]
            case ast.AugAssign(target, operator, value):
                return [f"{indent}{self._value(target)} {OPERATORS[type(operator)]}= {self._value(value)};"]
            case ast.Return(value):
                return [f"{indent}return{' ' + self._value(value) if value is not None else ''};"]
            case ast.Continue():
                return [f"{indent}continue;"]
            case ast.If(test, body, orelse):
                lines = [f"{indent}if ({self._value(test)}) {{", *self._block(body, inner)]
                if orelse:
                    lines += [f"{indent}}} else {{", *self._block(orelse, inner)]
                return [*lines, f"{indent}}}"]
            case ast.For(ast.Name(name), source, body):
                return [f"{indent}{self._loop(name, source)} {{", *self._block(body, inner), f"{indent}}}"]
        raise NotImplementedError(ast.dump(node))

    def _assigned(self, target: ast.expr, value: ast.expr) -> str:
        if isinstance(target, ast.Tuple):
            return f"[{', '.join(map(self._value, target.elts))}] = {self._value(value)}"
        return f"{self._value(target)} = {self._value(value)}"

    def _loop(self, name: str, source: ast.expr) -> str:
        match source:
            case ast.Call(ast.Name("range"), [end]):
                return f"for ({name} = 0; {name} < {self._value(end)}; {name}++)"
            case ast.Call(ast.Name("range"), [start, end]):
                return f"for ({name} = {self._value(start)}; {name} < {self._value(end)}; {name}++)"
            case ast.Tuple(parts):
                return f"for ({name} of [{', '.join(map(self._value, parts))}])"
        raise NotImplementedError(ast.dump(source))

    def _value(self, node: ast.expr) -> str:
        match node:
            case ast.Constant(bool() as value):
                return "true" if value else "false"
            case ast.Constant(value):
                return str(value)
            case ast.Name(name):
                return name
            case ast.Tuple(parts):
                return f"[{', '.join(map(self._value, parts))}]"
            case ast.UnaryOp(ast.USub(), value):
                return f"(-{self._value(value)})"
            case ast.UnaryOp(ast.Not(), value):
                return f"!({self._value(value)})"
            case ast.UnaryOp(ast.Invert(), value):
                return f"(~{self._value(value)})"
            case ast.BoolOp(operator, values):
                between = " && " if isinstance(operator, ast.And) else " || "
                return f"({between.join(map(self._value, values))})"
            case ast.IfExp(test, body, orelse):
                return f"({self._value(test)} ? {self._value(body)} : {self._value(orelse)})"
            case ast.BinOp(ast.BinOp(a, ast.Mult(), b), ast.FloorDiv(), c):
                return f"shareOf({self._value(a)}, {self._value(b)}, {self._value(c)})"
            case ast.BinOp(a, ast.FloorDiv(), b):
                return f"Math.floor({self._value(a)} / {self._value(b)})"
            case ast.BinOp(a, operator, b):
                return f"({self._value(a)} {OPERATORS[type(operator)]} {self._value(b)})"
            case ast.Compare():
                return self._compared(node)
            case ast.Call(ast.Name(name), arguments):
                return f"{SIMPLE.get(name, name)}({', '.join(map(self._value, arguments))})"
            case ast.Attribute(value, name):
                return f"{self._value(value)}.{name}"
            case ast.Subscript(ast.Attribute(value, "shape"), ast.Constant(0)):
                return f"{self._value(value)}.length"
            case ast.Subscript(value, ast.Tuple(parts)):
                return self._value(value) + "".join(f"[{self._value(part)}]" for part in parts)
            case ast.Subscript(value, index):
                return f"{self._value(value)}[{self._value(index)}]"
        raise NotImplementedError(ast.dump(node))

    def _compared(self, node: ast.Compare) -> str:
        parts, left = [], node.left
        for operator, right in zip(node.ops, node.comparators, strict=True):
            if isinstance(operator, ast.In) and isinstance(right, ast.Tuple):
                parts += [" || ".join(f"{self._value(left)} === {self._value(one)}" for one in right.elts)]
            else:
                parts.append(f"{self._value(left)} {OPERATORS[type(operator)]} {self._value(right)}")
            left = right
        return f"({' && '.join(parts)})"
