using System.Reflection;
using NetArchTest.Rules;

namespace WideKeel.Server.Tests;

/// <summary>Which part of the code may know which, as docs/decisions and the folders say.</summary>
public class ArchitectureTests
{
    /// <summary>Folders of each project in their order: the later may use the earlier, never the other way.</summary>
    public static TheoryData<string, string[]> Orders =>
        new()
        {
            {
                "WideKeel.Core",
                [
                    "AtRest",
                    "Time",
                    "Query",
                    "Sensitive",
                    "Ledger",
                    "People",
                    "Content",
                    "Retention",
                    "Disposition",
                    "Matters",
                    "Activity",
                    "Access",
                    "Readiness",
                    "CommandLine",
                ]
            },
            {
                "WideKeel.Store",
                [
                    "Ledger",
                    "People",
                    "Jobs",
                    "Notifications",
                    "Content",
                    "Retention",
                    "Disposition",
                    "Matters",
                    "Workspace",
                    "Activity",
                    "Access",
                    "Readiness",
                    "Migrations",
                ]
            },
            {
                "WideKeel.Server",
                [
                    "Kernel",
                    "People",
                    "Ledger",
                    "Jobs",
                    "Notifications",
                    "Content",
                    "Retention",
                    "Disposition",
                    "Matters",
                    "Workspace",
                    "Activity",
                    "Access",
                    "Readiness",
                    "Today",
                    "CommandLine",
                    "Demo",
                ]
            },
        };

    /// <summary>Types that may know later folders, each with its reason.</summary>
    private static readonly Dictionary<string, string> Exceptions = new()
    {
        // One context: each part adds its tables in a file of its own folder, and the compiler makes one type of them.
        ["WideKeel.Store.WideKeelDb"] = "partial, put together from the parts' own files",
    };

    [Theory]
    [MemberData(nameof(Orders))]
    public void Later_folders_use_the_earlier_ones_and_never_the_other_way(string project, string[] order)
    {
        List<string> wrong = [];
        for (var i = 0; i < order.Length - 1; i++)
        {
            wrong.AddRange(
                Types
                    .InAssembly(AssemblyOf(project))
                    .That()
                    .ResideInNamespaceStartingWith($"{project}.{order[i]}")
                    .ShouldNot()
                    .HaveDependencyOnAny([.. order.Skip(i + 1).Select(f => $"{project}.{f}")])
                    .GetResult()
                    .FailingTypeNames
                    ?? []
            );
        }

        wrong.ShouldBeEmpty();
    }

    [Theory]
    [MemberData(nameof(Orders))]
    public void Every_folder_stands_in_the_order(string project, string[] order) =>
        AssemblyOf(project)
            .GetTypes()
            .Select(t => t.Namespace)
            .OfType<string>()
            .Where(n => n.StartsWith(project + ".", StringComparison.Ordinal))
            .Select(n => n[(project.Length + 1)..].Split('.')[0])
            .Distinct()
            .Except(order)
            .ShouldBeEmpty();

    [Fact]
    public void The_root_of_the_store_knows_no_part()
    {
        var parts = ((string[])Orders.Single(o => o.Data.Item1 == "WideKeel.Store").Data.Item2)
            .Where(f => f is not ("Ledger" or "People"))
            .Select(f => $"WideKeel.Store.{f}");
        (
            Types
                .InAssembly(AssemblyOf("WideKeel.Store"))
                .That()
                .ResideInNamespaceMatching("^WideKeel\\.Store$")
                .ShouldNot()
                .HaveDependencyOnAny([.. parts])
                .GetResult()
                .FailingTypeNames
            ?? []
        )
            .Where(t => !Exceptions.ContainsKey(t.Split('/', '+')[0]))
            .ShouldBeEmpty();
    }

    [Fact]
    public void The_core_knows_no_database_no_web_and_no_file_system() =>
        Types
            .InAssembly(typeof(Core.Refusal).Assembly)
            .ShouldNot()
            .HaveDependencyOnAny(
                "Microsoft.EntityFrameworkCore",
                "Microsoft.AspNetCore",
                "Microsoft.Data.Sqlite",
                "System.IO.File",
                "System.IO.Directory",
                // Addresses and networks are values; what goes out over a wire is not for the core.
                "System.Net.Http",
                "System.Net.Sockets",
                "WideKeel.Store",
                "WideKeel.Sources",
                "WideKeel.Server"
            )
            .GetResult()
            .FailingTypeNames.ShouldBeNull();

    [Theory]
    [InlineData("WideKeel.Store", "WideKeel.Sources", "WideKeel.Server", "WideKeel.Demo")]
    [InlineData("WideKeel.Sources", "WideKeel.Store", "WideKeel.Server", "WideKeel.Demo")]
    [InlineData("WideKeel.Demo", "WideKeel.Server")]
    public void Arrows_between_the_projects_only_point_down(string project, params string[] above) =>
        Types
            .InAssembly(AssemblyOf(project))
            .ShouldNot()
            .HaveDependencyOnAny(above)
            .GetResult()
            .FailingTypeNames.ShouldBeNull();

    [Fact]
    public void A_part_bears_the_name_of_its_folder_and_stands_where_the_folder_does()
    {
        var parts = Parts.All(new() { DataFolder = "", SecretsFolder = "" });
        parts.Select(p => p.Name).ShouldBe(parts.Select(p => p.GetType().Namespace!.Split('.')[^1]));
        var order = Orders.Single(o => o.Data.Item1 == "WideKeel.Server").Data.Item2;
        parts.Select(p => Array.IndexOf(order, p.Name)).ShouldBeInOrder();
    }

    private static Assembly AssemblyOf(string project) =>
        project switch
        {
            "WideKeel.Core" => typeof(Core.Refusal).Assembly,
            "WideKeel.Store" => typeof(Store.WideKeelDb).Assembly,
            "WideKeel.Sources" => typeof(Sources.DirectoryShare).Assembly,
            "WideKeel.Demo" => typeof(WideKeel.Demo.Scenario).Assembly,
            "WideKeel.Server" => typeof(WideKeelHost).Assembly,
            _ => throw new ArgumentOutOfRangeException(nameof(project)),
        };
}
