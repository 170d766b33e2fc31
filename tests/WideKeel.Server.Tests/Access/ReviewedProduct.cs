using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Access;

/// <summary>A product whose directory has a guest with two ways into a group, and a library with a link to everybody.</summary>
public abstract class ReviewedProduct : IAsyncLifetime
{
    protected const string Guest = "guest@yard.example";
    protected const string Ann = "ann@tarn.example";
    protected Product Product { get; } = new();
    protected Api Manager { get; private set; } = null!;
    private protected ReviewRun Run { get; private set; } = null!;

    protected StandInDirectory Outside => Product.Services.GetRequiredService<OrganisationDirectory>().Outside;

    /// <summary>
    /// A guest is in the dock by a membership and by the yard; Ann has the library by the dock and by a link to everybody.
    /// </summary>
    public async ValueTask InitializeAsync()
    {
        await Product.InitializeAsync();
        await Product.WriteDirectoryAsync(
            new(
                [
                    new(Ann, "Ann", Unit: "Northern", Title: "Mate"),
                    new(Guest, "Gus", "guest", Title: "Guest", Sponsor: Ann),
                    new("ines@tarn.example", "Ines"),
                    new("vera@tarn.example", "Vera"),
                    new("gone@tarn.example", "Gone", Left: "2026-01-31"),
                ],
                [
                    new("Dock", "Dock", "ines@tarn.example", [Guest, Ann, "Yard"]),
                    new("Yard", "Yard", "ines@tarn.example", [Guest]),
                ],
                [
                    new(
                        "lib",
                        "Library",
                        "library",
                        null,
                        true,
                        "ines@tarn.example",
                        false,
                        false,
                        null,
                        [new("organisation", "editor", Ann), new("organisation", "owner", Ann, "2026-06-14")]
                    ),
                ],
                [new("Dock", "lib", "editor")],
                [new("Notes", "Notes", "Papirus", [new(Ann, ["all-files.read"], "2026-06-10")])]
            )
        );
        Manager = await Product.SignInAsync("mikkel");
        Run = new(Product, Manager);
    }

    public ValueTask DisposeAsync()
    {
        Manager.Dispose();
        GC.SuppressFinalize(this);
        return Product.DisposeAsync();
    }

    /// <summary>A review of the library, which its owner is asked about.</summary>
    protected static object OfTheLibrary(
        string silence = "keep",
        bool links = false,
        string[]? roles = null,
        string[]? applications = null,
        string[]? resources = null
    ) =>
        new
        {
            name = "The library",
            groups = Array.Empty<string>(),
            resources = resources ?? ["lib"],
            applications,
            roles,
            links,
            people = "everybody",
            inactiveDays = 30,
            reviewer = "owner",
            named = Array.Empty<string>(),
            deputy = "vera@tarn.example",
            days = 10,
            start = "2026-06-15",
            recurrence = "",
            reasonsRequired = false,
            silence,
            applyItself = true,
            words = "",
        };

    protected static object Link(string role = "editor") =>
        new
        {
            verb = "removeLink",
            who = "organisation",
            what = "lib",
            role,
        };

    protected static object Vera { get; } = new
    {
        reviewer = "named",
        named = new[] { "vera@tarn.example" },
        days = 7,
        seesFormer = true,
    };

    protected static object Member(string group, string who = Guest) =>
        new
        {
            verb = "removeMember",
            who,
            what = group,
        };
}
