using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.Readiness;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>Asks programs outside for their records, and keeps the last good answer of each.</summary>
public sealed class ConnectionReading(IHttpClientFactory http, StoredSecrets secrets, IClock clock)
{
    private const int MostBytes = 60_000_000;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <summary>Asks one program; nothing of an answer counts whose signature or form is wrong.</summary>
    public async Task<Outcome<(IReadOnlyList<SentRecord> Records, string Hash)>> AskAsync(
        string address,
        string key,
        CancellationToken cancel
    )
    {
        using var waited = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        waited.CancelAfter(Patience);
        try
        {
            return await AskAtAsync(new Uri($"{address.TrimEnd('/')}/records"), key, waited.Token);
        }
        catch (HttpRequestException e)
        {
            return Failed(OutboundGuard.Words(e));
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return Failed("It did not answer within 30 seconds");
        }
    }

    private async Task<Outcome<(IReadOnlyList<SentRecord> Records, string Hash)>> AskAtAsync(
        Uri address,
        string key,
        CancellationToken cancel
    )
    {
        var nonce = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
        var time = InstantPattern.General.Format(clock.GetCurrentInstant());
        using var question = new HttpRequestMessage(HttpMethod.Get, address);
        question.Headers.Add(Signature.TimeHeader, time);
        question.Headers.Add(Signature.NonceHeader, nonce);
        question.Headers.Add(Signature.Header, Signature.OfQuestion(key, address.AbsolutePath, time, nonce));
        using var client = http.CreateClient(nameof(ConnectionReading));
        client.MaxResponseContentBufferSize = MostBytes;
        using var answer = await client.SendAsync(question, cancel);
        if (!answer.IsSuccessStatusCode)
        {
            return Failed(
                answer.StatusCode == System.Net.HttpStatusCode.Unauthorized
                    ? "It does not know the key, or its clock is more than five minutes off"
                    : "It did not answer with records"
            );
        }

        var body = await answer.Content.ReadAsStringAsync(cancel);
        var given = answer.Headers.TryGetValues(Signature.Header, out var values) ? values.First() : null;
        if (!Signature.Same(given, Signature.OfAnswer(key, nonce, body)))
        {
            return Failed("Its answer is not signed with the key");
        }

        var read = ConnectionRecords.Read(body);
        return read.Refusal is { } malformed ? malformed : (read.Value, ContentHash.Of(body));
    }

    private static Refusal Failed(string sentence) => new("connection-failed", null, $"{sentence.TrimEnd('.')}.");

    /// <summary>Asks, and keeps what came, or why nothing did.</summary>
    public async Task<Outcome<Done>> ReadAsync(
        ConnectionRow connection,
        Writer writer,
        LedgerActor actor,
        CancellationToken cancel
    )
    {
        var answer = await AskAsync(connection.Address, secrets.Read(connection.Secret), cancel);
        return await writer.RunAsync<Done>(
            actor,
            async session =>
            {
                if (
                    await session.Db.Connections.SingleOrDefaultAsync(c => c.Id == connection.Id, cancel) is not { } row
                )
                {
                    return Problems.NotFound("connection");
                }

                await KeepAsync(session, row, answer, cancel);
                return new Done();
            },
            cancel
        );
    }

    private static async Task KeepAsync(
        WriteSession session,
        ConnectionRow row,
        Outcome<(IReadOnlyList<SentRecord> Records, string Hash)> answer,
        CancellationToken cancel
    )
    {
        if (answer.Refusal is { } failure)
        {
            row.Failure = row.LastAt is null ? failure.Sentence : $"{failure.Sentence} What it sent before is kept.";
            session.Record(
                "not-read",
                LedgerSubject.Of("connection", row.Id),
                after: new JsonObject { ["name"] = row.Name },
                reason: failure.Sentence
            );
            return;
        }

        var (records, hash) = answer.Value;
        (row.Failure, row.LastAt) = ("", session.Now);
        if (row.Hash == hash)
        {
            return;
        }

        row.Hash = hash;
        await session.Db.ConnectionRecords.Where(r => r.ConnectionId == row.Id).ExecuteDeleteAsync(cancel);
        session.Db.ConnectionRecords.AddRange(
            records.Select(r => new ConnectionRecord
            {
                ConnectionId = row.Id,
                Key = r.Key,
                Title = r.Title,
                Person = r.Person,
                Sort = r.Sort,
                State = r.State,
                Opened = r.Opened,
                Due = r.Due,
                Done = r.Done,
                Facts = r.Facts,
            })
        );
        session.Record(
            "read",
            LedgerSubject.Of("connection", row.Id),
            after: new JsonObject
            {
                ["name"] = row.Name,
                ["records"] = records.Count,
                ["sha256"] = hash,
            }
        );
    }
}

/// <summary>Reads all connections, before the tests of the morning look at what they say.</summary>
internal sealed class ConnectionsJob(IDbContextFactory<WideKeelDb> databases, Writer writer, ConnectionReading reading)
    : IJob
{
    /// <summary>In the lane of the tests, so that they wait for it.</summary>
    public static readonly JobKind JobKind = new("connections", ControlTestsJob.JobKind.Lane, Changes: "readiness");

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var connections = await db.Connections.AsNoTracking().OrderBy(c => c.Id).ToListAsync(cancel);
        foreach (var connection in connections)
        {
            run.StopIfAsked();
            await reading.ReadAsync(connection, writer, run.Actor, cancel);
        }

        var failed = await db.Connections.AsNoTracking().CountAsync(c => c.Failure != "", cancel);
        return failed == 0
            ? $"{Wording.Plural(connections.Count, "connection")} read."
            : $"{Wording.Plural(connections.Count, "connection")} asked; {Wording.Number(failed)} did not answer.";
    }
}
