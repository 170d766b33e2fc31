using WideKeel.Server.Tests;
using WideKeel.Server.Tests.Disposition;
using WideKeel.Server.Tests.Jobs;
using WideKeel.Server.Tests.Kernel;
using Xunit.Sdk;
using Xunit.v3;

[assembly: TestCollectionOrderer(typeof(SlowFirst))]

namespace WideKeel.Server.Tests;

/// <summary>
/// Classes that take minutes begin first: at the end they would run alone, with the other core idle.
/// </summary>
public sealed class SlowFirst : ITestCollectionOrderer
{
    private static readonly string[] Slow =
    [
        nameof(KillTests),
        nameof(SeveralPersonsTests),
        nameof(OnePersonTests),
        nameof(FullDiskTests),
        nameof(FuzzTests),
    ];

    public IReadOnlyCollection<TTestCollection> OrderTestCollections<TTestCollection>(
        IReadOnlyCollection<TTestCollection> testCollections
    )
        where TTestCollection : ITestCollection =>
        [
            .. testCollections.OrderByDescending(c =>
                Slow.Any(s => c.TestCollectionDisplayName.Contains(s, StringComparison.Ordinal))
            ),
        ];
}
