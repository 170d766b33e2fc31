namespace WideKeel.Server.Demo;

/// <summary>What runs beside the product in the demo alone.</summary>
public sealed class DemoPart : IPart
{
    public string Name => "Demo";

    public int Order => 900;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        if (options.DemoAccounts.Count > 0)
        {
            services.AddHostedService<DemoPrograms>();
        }
    }
}
