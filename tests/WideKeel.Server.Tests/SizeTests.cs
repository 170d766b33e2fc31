using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;

namespace WideKeel.Server.Tests;

/// <summary>
/// How large a method, a component and a line may be. What stays whole all the same says why.
/// </summary>
public class SizeTests
{
    private const int MethodLines = 60;
    private const int MethodBranches = 15;
    private const int ComponentLines = 250;
    private const int LineCharacters = 140;

    /// <summary>What tools write.</summary>
    private static readonly string[] Made = ["/bin/", "/obj/", "/Migrations/", "/wwwroot/", "schema.d.ts"];

    [Fact]
    public void No_method_and_no_component_is_over_its_limit() =>
        Methods()
            .Concat(Components())
            .Select(s => $"{s.Key} {s.Value}")
            .ShouldBeEmpty("split it, or say in a comment above it, beginning with “Long because”, why it stays whole");

    [Fact]
    public void No_line_is_over_140_characters() =>
        Files(".cs", ".ts", ".vue", ".css")
            .SelectMany(file =>
                File.ReadLines(file)
                    .Select((line, i) => (Place: $"{Name(file)}:{i + 1}", line.Length))
                    .Where(l => l.Length > LineCharacters)
            )
            .Select(l => l.Place)
            .ShouldBeEmpty();

    [Theory]
    [InlineData("void M() { }", 0)]
    [InlineData("void M() { if (a) { } else if (b && c) { } while (d) { } }", 4)]
    [InlineData("int M() => a switch { 1 => 2, 3 => 4, _ => 5 };", 3)]
    [InlineData("int M() => a ? 1 : b ?? 2;", 2)]
    [InlineData(
        "void M() { foreach (var x in y) { try { } catch (E) { } } switch (z) { case 1: break; default: break; } }",
        4
    )]
    public void Branches_are_counted_where_the_flow_parts(string method, int branches) =>
        Branches(SyntaxFactory.ParseCompilationUnit($"class C {{ {method} }}")).ShouldBe(branches);

    /// <summary>Where the flow parts: conditions, loops, cases, arms, handlers, and the operators that skip an operand.</summary>
    private static int Branches(SyntaxNode node) =>
        node.DescendantNodes()
            .Count(n =>
                n
                    is IfStatementSyntax
                        or ConditionalExpressionSyntax
                        or WhileStatementSyntax
                        or DoStatementSyntax
                        or ForStatementSyntax
                        or CommonForEachStatementSyntax
                        or SwitchLabelSyntax
                        or SwitchExpressionArmSyntax
                        or CatchClauseSyntax
                || n.Kind()
                    is SyntaxKind.LogicalAndExpression
                        or SyntaxKind.LogicalOrExpression
                        or SyntaxKind.CoalesceExpression
            );

    /// <summary>Methods over a limit: their file, name and measure → the lines or branches.</summary>
    private static IEnumerable<KeyValuePair<string, int>> Methods() =>
        Files(".cs")
            .Where(f => Name(f).StartsWith("src/", StringComparison.Ordinal))
            .SelectMany(file =>
                CSharpSyntaxTree
                    .ParseText(File.ReadAllText(file))
                    .GetRoot()
                    .DescendantNodes()
                    .OfType<BaseMethodDeclarationSyntax>()
                    .Where(m => !IsExcused(m.GetLeadingTrivia().ToFullString()))
                    .SelectMany(m => OverLimits($"{Name(file)}#{NameOf(m)}", m))
            )
            .GroupBy(m => m.Key, m => m.Value)
            .Select(g => KeyValuePair.Create(g.Key, g.Max()));

    private static IEnumerable<KeyValuePair<string, int>> OverLimits(string name, BaseMethodDeclarationSyntax method)
    {
        var span = method.SyntaxTree.GetLineSpan(method.Span);
        var lines = span.EndLinePosition.Line - span.StartLinePosition.Line + 1;
        if (lines > MethodLines)
        {
            yield return KeyValuePair.Create($"{name}:lines", lines);
        }

        if (Branches(method) is > MethodBranches and var branches)
        {
            yield return KeyValuePair.Create($"{name}:branches", branches);
        }
    }

    private static string NameOf(BaseMethodDeclarationSyntax method) =>
        method is MethodDeclarationSyntax named
            ? named.Identifier.Text
            : method.Kind().ToString().Replace("Declaration", "", StringComparison.Ordinal);

    private static IEnumerable<KeyValuePair<string, int>> Components() =>
        Files(".vue")
            .Select(file => (Name: Name(file), Text: File.ReadAllText(file)))
            .Where(f => !IsExcused(f.Text))
            .Select(f => KeyValuePair.Create(f.Name, f.Text.Count(c => c == '\n')))
            .Where(f => f.Value > ComponentLines);

    private static bool IsExcused(string text) => text.Contains("Long because", StringComparison.Ordinal);

    private static IEnumerable<string> Files(params string[] extensions) =>
        new[] { "src", "tests", "bench", "ui/src" }
            .Select(folder => Path.Combine(Repository.Root, folder))
            .SelectMany(folder => Directory.EnumerateFiles(folder, "*", SearchOption.AllDirectories))
            .Where(f => extensions.Contains(Path.GetExtension(f)))
            .Where(f => !Made.Any(m => f.Contains(m, StringComparison.Ordinal)));

    private static string Name(string file) => Path.GetRelativePath(Repository.Root, file).Replace('\\', '/');
}
