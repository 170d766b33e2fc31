using System.Collections.Concurrent;
using System.Reflection;

namespace WideKeel.Server.Kernel;

/// <summary>
/// A part of the product, as the host knows it: one folder, and one file in it that says what the part brings. What its
/// folder holds of <see cref="IContribution"/>s is registered with it; whoever gathers them asks for all of their kind
/// and knows no part by name.
/// </summary>
public interface IPart
{
    /// <summary>The name of its folder.</summary>
    string Name { get; }

    /// <summary>
    /// Where it stands among the parts, the same way as its folder: its services come after those of the parts before
    /// it.
    /// </summary>
    int Order { get; }

    void AddServices(IServiceCollection services, WideKeelOptions options) { }

    /// <param name="api">The group of all addresses under <c>/api</c>.</param>
    void MapRoutes(IEndpointRouteBuilder api) { }

    /// <summary>Addresses that a standard puts elsewhere. Who may use them each part asks itself.</summary>
    void MapOutsideApi(IEndpointRouteBuilder root) { }
}

/// <summary>
/// Something that a part adds to what all parts bring together: a job, a duty, what the daily run asks, what can be
/// found. An interface of this kind names what is gathered; a class that implements it is registered by standing in its
/// part's folder.
/// </summary>
public interface IContribution;

/// <summary>Finds the parts.</summary>
public static class Parts
{
    /// <summary>
    /// All parts of the product and what the options add, in their order. No list names them: a part is there because
    /// its file is.
    /// </summary>
    public static IReadOnlyList<IPart> All(WideKeelOptions options) =>
        [
            .. typeof(Parts)
                .Assembly.GetTypes()
                .Where(t => t is { IsClass: true, IsAbstract: false } && t.IsAssignableTo(typeof(IPart)))
                .Select(t => (IPart)Activator.CreateInstance(t)!)
                .Concat(options.MoreParts)
                .OrderBy(p => p.Order)
                .ThenBy(p => p.Name, StringComparer.Ordinal),
        ];

    /// <summary>Registers a part's own services, and the contributions of its folder.</summary>
    public static void Add(IServiceCollection services, IPart part, WideKeelOptions options)
    {
        part.AddServices(services, options);
        var contributions = ByFolder.GetOrAdd(part.GetType().Assembly, ContributionsOf);
        foreach (var (gathered, type) in contributions[part.GetType().Namespace])
        {
            services.AddSingleton(gathered, type);
        }
    }

    /// <summary>Looked up once in a process, which in tests starts hundreds of hosts.</summary>
    private static readonly ConcurrentDictionary<Assembly, ILookup<string?, (Type Gathered, Type Type)>> ByFolder = [];

    private static ILookup<string?, (Type Gathered, Type Type)> ContributionsOf(Assembly assembly) =>
        assembly
            .GetTypes()
            .Where(t => t is { IsClass: true, IsAbstract: false })
            .OrderBy(t => t.Name, StringComparer.Ordinal)
            .SelectMany(t => t.GetInterfaces().Where(Gathers).Select(i => (Gathered: i, Type: t)))
            .ToLookup(c => c.Type.Namespace);

    private static bool Gathers(Type contract) => contract.GetInterfaces().Contains(typeof(IContribution));
}
