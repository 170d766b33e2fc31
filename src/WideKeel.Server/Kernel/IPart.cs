namespace WideKeel.Server.Kernel;

/// <summary>
/// A part of the product, as the host knows it: one folder, and one file in it that says what the part brings. Long work, duties, what the
/// daily run asks and what can be found are services of the part (<see cref="IDutySource"/>, <see cref="IFindSource"/>, <see cref="IDailyTask"/>,
/// <c>IJob</c>); whoever gathers them asks for all services of their kind and knows no part by name.
/// </summary>
public interface IPart
{
    /// <summary>The name of its folder.</summary>
    string Name { get; }

    /// <summary>Where it stands among the parts, the same way as its folder: its services come after those of the parts before it.</summary>
    int Order { get; }

    void AddServices(IServiceCollection services, WideKeelOptions options) { }

    /// <param name="api">The group of all addresses under <c>/api</c>.</param>
    void MapRoutes(IEndpointRouteBuilder api) { }
}

/// <summary>Finds the parts.</summary>
public static class Parts
{
    /// <summary>All parts of the product and what the options add, in their order. No list names them: a part is there because its file is.</summary>
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
}
