using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Server.Readiness;
using WideKeel.Store;

namespace WideKeel.Server.Demo;

/// <summary>
/// The programs that the demo's connections ask, and its content scanner. They listen on any ports that are free, and say
/// so to the connections each time the demo begins.
/// </summary>
internal sealed class DemoPrograms(
    WideKeelOptions options,
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    StoredSecrets secrets,
    ContentScanner scanner,
    IClock clock
) : IHostedService
{
    private readonly List<IAsyncDisposable> programs = [];

    /// <summary>Where what a program knows lies; a connection of the same name asks it.</summary>
    public static string FileOf(WideKeelOptions options, string name) =>
        Path.Combine(options.DataFolder, "programs", $"{name}.json");

    public async Task StartAsync(CancellationToken cancel)
    {
        var standIn = new StandInScanner();
        programs.Add(standIn);
        scanner.Address ??= standIn.Address;
        await using var db = await databases.CreateDbContextAsync(cancel);
        foreach (var connection in await db.Connections.AsNoTracking().ToListAsync(cancel))
        {
            var file = FileOf(options, connection.Name);
            if (!File.Exists(file))
            {
                continue;
            }

            var program = await StandInProgram.StartAsync(
                file,
                secrets.Read(connection.Secret),
                "http://127.0.0.1:0",
                clock
            );
            programs.Add(program);
            await writer.RunAsync(
                LedgerActor.Job("demo", null),
                async session =>
                {
                    var row = await session.Db.Connections.SingleAsync(c => c.Id == connection.Id, cancel);
                    row.Address = program.Urls.First();
                    session.Record(
                        "changed",
                        LedgerSubject.Of("connection", row.Id),
                        after: new JsonObject { ["name"] = row.Name, ["address"] = row.Address }
                    );
                },
                cancel
            );
        }
    }

    public async Task StopAsync(CancellationToken cancel)
    {
        foreach (var program in programs)
        {
            await program.DisposeAsync();
        }

        programs.Clear();
    }
}
