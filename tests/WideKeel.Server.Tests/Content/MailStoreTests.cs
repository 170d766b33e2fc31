using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WideKeel.Core.Disposition;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Content;

/// <summary>
/// Mailboxes and folders of messages as a source: listed, read, joined into conversations, disposed of.
/// </summary>
public sealed class MailStoreTests : IAsyncLifetime
{
    private readonly Product product = new();

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    /// <summary>
    /// Fixtures/odd.mbox and what Python's mailbox and email modules (3.11) read from it: Fixtures/make-mbox.py.
    /// </summary>
    [Fact]
    public async Task An_odd_mailbox_is_read_as_another_languages_parser_reads_it()
    {
        var folder = Directory.CreateDirectory(Path.Combine(product.Folder, "odd")).FullName;
        File.Copy(Path.Combine(AppContext.BaseDirectory, "Fixtures", "odd.mbox"), Path.Combine(folder, "odd.mbox"));
        var store = new MailStore(folder);
        var found = store.Walk().Cast<Found.File>().ToList();
        var expected = File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "odd.jsonl"))
            .Select(l => JsonDocument.Parse(l).RootElement)
            .ToList();
        found.Count.ShouldBe(expected.Count);
        foreach (var (file, other) in found.Zip(expected))
        {
            file.Hash.ShouldBe(other.GetProperty("sha256").GetString(), other.ToString());
            (await store.HashAsync(file.Path, TestContext.Current.CancellationToken)).ShouldBe(file.Hash);
            var text = await store.ExtractAsync(file.Path, "eml", TestContext.Current.CancellationToken);
            (text.Title ?? "").ShouldBe(other.GetProperty("subject").GetString());
            (text.Author ?? "").ShouldBe(other.GetProperty("from").GetString());
            text.Attachments.ShouldBe(other.GetProperty("attachments").EnumerateArray().Select(a => a.GetString()!));
            (text.Created is { } day ? NodaTime.Text.LocalDatePattern.Iso.Format(day) : null).ShouldBe(
                other.GetProperty("date").GetString()
            );
            foreach (var word in other.GetProperty("words").EnumerateArray())
            {
                text.Text.ShouldContain(word.GetString()!);
            }
        }

        found.Select(f => f.Path).Distinct().Count().ShouldBe(found.Count);
    }

    /// <summary>
    /// RFC 4155, appendix A, taken line by line; here the lines are short and their ends mixed, so that wherever a
    /// reading ends, something begins.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void A_mailbox_longer_than_one_reading_is_cut_where_its_lines_say(int seed)
    {
        var random = new Random(seed);
        string[] lines = ["From a", "From a", "From", ">From a", "", "", "", "text", "x"];
        using var bytes = new MemoryStream();
        using var message = new MemoryStream();
        List<string> expected = [];
        var (within, blank) = (false, true);
        while (bytes.Length < 3_500_000)
        {
            var line = Encoding.ASCII.GetBytes(
                lines[random.Next(lines.Length)]
                    + new string('y', random.Next(30) * random.Next(2))
                    + (random.Next(3) == 0 ? "\r\n" : "\n")
            );
            if (blank && line.AsSpan().StartsWith("From "u8))
            {
                End();
                within = true;
            }
            else if (within)
            {
                message.Write(line);
            }

            blank = line is [(byte)'\n'] or [(byte)'\r', (byte)'\n'];
            bytes.Write(line);
        }

        End();
        var folder = Directory.CreateDirectory(Path.Combine(product.Folder, "long")).FullName;
        File.WriteAllBytes(Path.Combine(folder, "long.mbox"), bytes.ToArray());
        new MailStore(folder).Walk().Cast<Found.File>().Select(f => f.Hash).ShouldBe(expected);

        void End()
        {
            var text = message.ToArray().AsSpan();
            text =
                text.EndsWith("\r\n\r\n"u8) ? text[..^2]
                : text.EndsWith("\n\n"u8) ? text[..^1]
                : text;
            if (within)
            {
                expected.Add(Convert.ToHexStringLower(SHA256.HashData(text)));
            }

            message.SetLength(0);
        }
    }

    /// <summary>
    /// MimeKit's own reading of the text, with all its filters, is what ours without them is held to.
    /// </summary>
    [Theory]
    [InlineData("", "one\r\ntwo\r\n\r\nthree\n")]
    [InlineData("Content-Type: text/plain\n", "a lone \r stays\r\r\n")]
    [InlineData("Content-Type: text/plain; charset=UTF-8\nContent-Transfer-Encoding: 8bit\n", "Fähre Ærø\n")]
    [InlineData("Content-Type: text/plain; charset=utf-8\n", "\ufeffwith a mark")]
    [InlineData("Content-Type: text/plain; charset=utf-8\n", "not UTF-8: \u00e9", true)]
    [InlineData("Content-Type: text/plain\n", "not UTF-8 either: \u00e9", true)]
    [InlineData("Content-Type: text/plain; charset=iso-8859-1\n", "Caf\u00e9", true)]
    [InlineData("Content-Type: text/plain; charset=us-ascii\n", "only what it says")]
    [InlineData("Content-Type: text/plain; charset=utf-8; format=flowed\n", "one \n two\n")]
    [InlineData(
        "Content-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: quoted-printable\n",
        "F=C3=A4hre =\nlong"
    )]
    [InlineData("Content-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: base64\n", "RsOkaHJl")]
    [InlineData("Content-Type: text/plain\nContent-Disposition: attachment; filename=a.bin\n", "an attachment alone")]
    [InlineData("", "")]
    public async Task The_text_of_a_plain_message_is_what_MimeKit_reads(string head, string body, bool latin = false)
    {
        byte[] bytes =
        [
            .. Encoding.ASCII.GetBytes($"From: a@all.example\nSubject: Pier\n{head}\n"),
            .. (latin ? Encoding.Latin1 : Encoding.UTF8).GetBytes(body),
        ];
        var read = await TextExtraction.ExtractMailAsync(
            new MemoryStream(bytes),
            TestContext.Current.CancellationToken
        );
        var message = await MimeKit.MimeMessage.LoadAsync(
            new MemoryStream(bytes),
            TestContext.Current.CancellationToken
        );
        var attached = head.Contains("attachment", StringComparison.Ordinal)
            ? WideKeel.Core.Matters.Family.Heading("a.bin")
            : "";
        read.Text.ShouldBe($"From: a@all.example\nTo: \nSubject: Pier\n\n{message.TextBody ?? ""}{attached}");
    }

    [Fact]
    public async Task A_message_that_calls_its_UTF_8_ASCII_is_found_by_its_words()
    {
        var bytes = Encoding.UTF8.GetBytes(
            "From: a@all.example\nContent-Type: text/plain; charset=us-ascii\n\nFähre nach Ærø"
        );
        (
            await TextExtraction.ExtractMailAsync(new MemoryStream(bytes), TestContext.Current.CancellationToken)
        ).Text.ShouldEndWith("Fähre nach Ærø");
    }

    [Theory]
    [InlineData(60, 60, "Of 60 attachments only the first 50 were read.")]
    [InlineData(1_003, 1_000, "Of 1,003 attachments only the first 50 were read.")]
    public async Task Each_of_many_attachments_is_a_document_and_the_limit_says_how_many_were_read(
        int attachments,
        int expected,
        string limit
    )
    {
        var parts = string.Concat(
            Enumerable
                .Range(1, attachments)
                .Select(i => $"--b\nContent-Disposition: attachment; filename=\"{i}.txt\"\n\nword{i}\n")
        );
        var message = Encoding.UTF8.GetBytes(
            $"From: a@all.example\nContent-Type: multipart/mixed; boundary=b\n\n{parts}--b--\n"
        );
        var read = await TextExtraction.ExtractMailAsync(
            new MemoryStream(message),
            TestContext.Current.CancellationToken
        );
        read.Attachments.ShouldBe(Enumerable.Range(1, expected).Select(i => $"{i}.txt"));
        read.Limit.ShouldBe(limit);
        var documents = WideKeel.Core.Matters.Family.Split(read.Text, read.Attachments);
        documents.Count.ShouldBe(expected + 1);
        documents[50].Text.ShouldContain("word50");
        documents[51].Text.Trim().ShouldBe("");
        MailParts.Read(new MemoryStream(message))!.Attachments.Count.ShouldBe(expected);
    }

    [Fact]
    public async Task A_scan_that_is_stopped_keeps_what_it_read_and_the_next_goes_on_from_there()
    {
        const int messages = 20_000;
        var mail = Mailbox(
            "inbox.mbox",
            [.. Enumerable.Range(0, messages).Select(i => Letter($"{i}@x", $"Pier {i}", null, "text"))]
        );
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk(
            "sources",
            new
            {
                name = "Mail",
                kind = "mail",
                root = mail,
            }
        );
        var jobs = (await jonas.GetOk("jobs")).EnumerateArray();
        var scan = $"jobs/{jobs.First(j => j.GetProperty("kind").GetString() == "scan").GetProperty("id").GetInt64()}";
        await jonas.WaitForAsync(scan, job => job.GetProperty("done").GetInt64() > 0);
        (await jonas.Post($"{scan}/cancellation", new { })).Status.ShouldBe(HttpStatusCode.OK);
        await jonas.WaitForJobsAsync();
        (await jonas.GetOk(scan)).GetProperty("state").GetString().ShouldBe("cancelled");
        var kept = await CountAsync();
        kept.ShouldBeInRange(1, messages - 1);

        await ScanAllAsync(jonas);
        (await CountAsync()).ShouldBe(messages);
        (await jonas.GetOk("jobs"))
            .EnumerateArray()
            .ShouldContain(j =>
                j.GetProperty("message").GetString()!.Contains($"{messages - kept:N0} new", StringComparison.Ordinal)
            );

        async Task<int> CountAsync()
        {
            await using var db = product.Database();
            return await db.Items.CountAsync();
        }
    }

    [Fact]
    public async Task Messages_are_items_of_conversations_with_the_text_of_their_attachments()
    {
        var mail = Mailbox(
            "inbox.mbox",
            Letter("a@x", "Pier", null, "first"),
            Letter("b@x", "Re: Pier", "a@x", "second"),
            Letter("c@x", "Timber", null, "third", "dolphin broken")
        );
        await File.WriteAllTextAsync(
            Path.Combine(mail, "inbox.mbox.idx"),
            "an index of a mail program",
            TestContext.Current.CancellationToken
        );
        using var ines = await ConnectAsync(mail);
        var items = (await ines.GetOk("items?sort=title")).GetProperty("items").EnumerateArray().ToList();
        items.Select(i => i.GetProperty("title").GetString()).ShouldBe(["Pier", "Re: Pier", "Timber"]);
        items.ShouldAllBe(i =>
            i.GetProperty("container").GetString() == "inbox.mbox" && i.GetProperty("type").GetString() == "eml"
        );
        (await ines.GetOk("items?cql=dolphin"))
            .GetProperty("items")[0]
            .GetProperty("title")
            .GetString()
            .ShouldBe("Timber");
        var timber = await ines.GetOk($"items/{items[2].GetProperty("id").GetInt64()}");
        timber.GetProperty("attachments").EnumerateArray().Select(a => a.GetString()).ShouldBe(["note.txt"]);

        var first = await ines.GetOk($"items/{items[0].GetProperty("id").GetInt64()}");
        first.GetProperty("inThread").GetInt64().ShouldBe(1);
        (await ines.GetOk($"items?thread={Uri.EscapeDataString(first.GetProperty("thread").GetString()!)}"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(2);
        (await ines.GetOk($"items/{items[0].GetProperty("id").GetInt64()}/preview"))
            .GetProperty("content")
            .GetString()!
            .ShouldContain("first");
    }

    [Fact]
    public async Task A_new_message_is_found_without_reading_the_others_again_and_a_moved_one_is_the_same_item()
    {
        var mail = Mailbox("inbox.mbox", Letter("a@x", "Pier", null, "first"), Letter("b@x", "Timber", null, "second"));
        using var ines = await ConnectAsync(mail);
        var id = (await ines.GetOk("items?cql=title=Pier")).GetProperty("items")[0].GetProperty("id").GetInt64();
        Mailbox("inbox.mbox", Letter("c@x", "Fuel", null, "third"), Letter("b@x", "Timber", null, "second"));
        Mailbox("archive.mbox", Letter("a@x", "Pier", null, "first"));
        await ScanAllAsync(ines);
        var moved = await ines.GetOk($"items/{id}");
        (
            moved.GetProperty("item").GetProperty("container").GetString(),
            moved.GetProperty("item").GetProperty("missing").GetBoolean()
        ).ShouldBe(("archive.mbox", false));
        (await ines.GetOk("items")).GetProperty("total").GetInt64().ShouldBe(3);
    }

    [Fact]
    public async Task Destroying_messages_writes_their_mailbox_anew_and_leaves_the_others_byte_for_byte()
    {
        string keep = Letter("b@x", "Timber", null, "second", date: "Mon, 01 Jun 2026 10:00:00 +0000");
        var mail = Mailbox(
            "inbox.mbox",
            Letter("a@x", "Pier", null, "first"),
            keep,
            Letter("c@x", "Fuel", null, "third")
        );
        using var ines = await ConnectAsync(mail);
        using var tobias = await product.SignInAsync("tobias");
        var container = (await ines.GetOk("containers"))[0].GetProperty("id").GetInt64();
        var series = await product.SeriesInForceAsync(
            ines,
            "GEN-010",
            "Tarn Lines",
            [container],
            Product.Definition(period: "P1Y")
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        await File.WriteAllTextAsync(Path.Combine(mail, "inbox.mbox.lock"), "", TestContext.Current.CancellationToken);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        (await ines.GetOk($"batches/{batch}")).GetProperty("failed").GetInt32().ShouldBe(2);
        (await ines.GetOk($"batches/{batch}/lines"))
            .GetProperty("lines")[0]
            .GetProperty("outcome")
            .GetString()
            .ShouldBe("The mailbox is locked by a mail program.");

        File.Delete(Path.Combine(mail, "inbox.mbox.lock"));
        (await ines.Post($"batches/{batch}/retry", new { })).Status.ShouldBe(HttpStatusCode.OK);
        await ines.WaitForJobsAsync();
        (await ines.GetOk($"batches/{batch}")).GetProperty("destroyed").GetInt32().ShouldBe(2);
        (await File.ReadAllTextAsync(Path.Combine(mail, "inbox.mbox"), TestContext.Current.CancellationToken)).ShouldBe(
            $"From x@y Mon Jun  1 10:00:00 2026\n{keep}\n\n"
        );
        Directory.GetFiles(mail).Select(Path.GetFileName).ShouldBe(["inbox.mbox"]);
    }

    /// <summary>A batch of two mailboxes, one of which was locked at first; carried out, and tried again.</summary>
    private async Task<(Api Ines, long Batch)> TriedTwiceAsync(string atEnd = "signOff")
    {
        Mailbox("inbox.mbox", Letter("a@x", "Pier", null, "first"));
        var mail = Mailbox("sent.mbox", Letter("b@x", "Timber", null, "second"));
        var locked = Path.Combine(mail, "sent.mbox.lock");
        var ines = await ConnectAsync(mail);
        using var tobias = await product.SignInAsync("tobias");
        long[] containers =
        [
            .. (await ines.GetOk("containers")).EnumerateArray().Select(c => c.GetProperty("id").GetInt64()),
        ];
        var series = await product.SeriesInForceAsync(
            ines,
            "GEN-010",
            "Tarn Lines",
            containers,
            Product.Definition(period: "P1Y", atEnd: atEnd)
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        await File.WriteAllTextAsync(locked, "", TestContext.Current.CancellationToken);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        File.Delete(locked);
        (await ines.Post($"batches/{batch}/retry", new { })).Status.ShouldBe(HttpStatusCode.OK);
        await ines.WaitForJobsAsync();
        return (ines, batch);
    }

    [Fact]
    public async Task A_retry_ends_in_a_supplement_to_the_certificate()
    {
        var (ines, _) = await TriedTwiceAsync();
        using (ines)
        {
            (await ines.GetOk("certificates"))
                .EnumerateArray()
                .Select(c => (c.GetProperty("number").GetString(), c.GetProperty("items").GetInt32()))
                .ShouldBe([("2026-0001/2", 1), ("2026-0001", 1)]);
        }
    }

    [Fact]
    public async Task A_retry_brings_the_batch_to_its_end()
    {
        var (ines, batch) = await TriedTwiceAsync();
        using (ines)
        {
            var view = await ines.GetOk($"batches/{batch}");
            (
                view.GetProperty("state").GetString(),
                view.GetProperty("destroyed").GetInt32(),
                view.GetProperty("failed").GetInt32()
            ).ShouldBe(("done", 2, 0));
        }
    }

    [Fact]
    public async Task A_certificate_as_CSV_names_the_source_of_each_item()
    {
        var (ines, _) = await TriedTwiceAsync();
        using (ines)
        {
            var supplement = (await ines.GetOk("certificates"))[0].GetProperty("id").GetInt64();
            var lines = (
                await ines.Http.GetStringAsync(
                    $"certificates/{supplement}/document.csv",
                    TestContext.Current.CancellationToken
                )
            ).Split("\r\n");
            lines[1].ShouldStartWith("2026-0001/2,destroyed,2,Mail,sent.mbox");
        }
    }

    [Fact]
    public async Task What_a_retry_hands_over_lies_in_the_same_bundle()
    {
        var (ines, batch) = await TriedTwiceAsync(atEnd: "transfer");
        using (ines)
        {
            (await ines.GetOk($"batches/{batch}")).GetProperty("bundle").GetProperty("items").GetInt32().ShouldBe(2);
            var bag = new Bag(
                Path.Combine(
                    product.Services.GetRequiredService<WideKeelOptions>().DataFolder,
                    "bundles",
                    $"batch-{batch}"
                )
            );
            (await bag.VerifyAsync(TestContext.Current.CancellationToken)).ShouldBeNull();
        }
    }

    [Fact]
    public async Task A_batch_whose_job_failed_is_gone_on_with()
    {
        var (ines, batch) = await TriedTwiceAsync();
        using (ines)
        {
            await using (var db = product.Database())
            {
                await db.Batches.ExecuteUpdateAsync(
                    set => set.SetProperty(b => b.State, BatchState.Executing),
                    TestContext.Current.CancellationToken
                );
            }

            (await ines.GetOk($"batches/{batch}")).GetProperty("stuck").GetBoolean().ShouldBeTrue();
            (await ines.Post($"batches/{batch}/retry", new { })).Status.ShouldBe(HttpStatusCode.OK);
            await ines.WaitForJobsAsync();
            (await ines.GetOk($"batches/{batch}")).GetProperty("state").GetString().ShouldBe("done");
        }
    }

    [Fact]
    public async Task A_message_that_was_deleted_from_its_mailbox_comes_back_from_safekeeping_as_a_message_of_its_own()
    {
        var letter = Letter("a@x", "Pier", null, "first");
        var mail = Mailbox("inbox.mbox", letter, Letter("b@x", "Timber", null, "second"));
        using var ines = await ConnectAsync(mail);
        var container = (await ines.GetOk("containers"))[0].GetProperty("id").GetInt64();
        await product.SeriesInForceAsync(
            ines,
            "GEN-010",
            "Tarn Lines",
            [container],
            Product.Definition(period: "P20Y")
        );
        var item = (await ines.GetOk("items?cql=title=Pier")).GetProperty("items")[0].GetProperty("id").GetInt64();
        Mailbox("inbox.mbox", Letter("b@x", "Timber", null, "second"));
        await ScanAllAsync(ines);
        (await ines.GetOk($"items/{item}")).GetProperty("item").GetProperty("missing").GetBoolean().ShouldBeTrue();
        var hash = (await ines.GetOk($"items/{item}/copies"))[0].GetProperty("hash").GetString();
        hash.ShouldBe(Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(letter + "\n"))));
        var path = (await ines.PostOk($"items/{item}/restoration", new { hash, why = "Needed for the claim." }))
            .GetProperty("path")
            .GetString()!;
        path.ShouldStartWith("inbox (restored)/");
        await ines.WaitForJobsAsync();
        (await ines.GetOk($"items/{item}")).GetProperty("item").GetProperty("missing").GetBoolean().ShouldBeFalse();
    }

    private string Mailbox(string name, params string[] letters)
    {
        var folder = Directory.CreateDirectory(Path.Combine(product.Folder, "mail")).FullName;
        File.WriteAllText(
            Path.Combine(folder, name),
            string.Concat(letters.Select(l => $"From x@y Mon Jun  1 10:00:00 2026\n{l}\n\n"))
        );
        return folder;
    }

    private static string Letter(
        string id,
        string subject,
        string? reference,
        string body,
        string? attachment = null,
        string date = "Wed, 04 Mar 2020 09:30:00 +0000"
    )
    {
        var head =
            $"From: Anna <anna@post.example>\nTo: records@tarn.example\nSubject: {subject}\nDate: {date}\n"
            + $"Message-ID: <{id}>\n{(reference is null ? "" : $"References: <{reference}>\n")}MIME-Version: 1.0\n";
        return attachment is null
            ? $"{head}\n{body}"
            : $"{head}Content-Type: multipart/mixed; boundary=\"b\"\n\n--b\nContent-Type: text/plain\n\n{body}\n"
                + $"--b\nContent-Type: text/plain; name=\"note.txt\"\n"
                + $"Content-Disposition: attachment; filename=\"note.txt\"\n\n{attachment}\n--b--";
    }

    private async Task<Api> ConnectAsync(string mail)
    {
        using var admin = await product.SignInAsync("jonas");
        await admin.PostOk(
            "sources",
            new
            {
                name = "Mail",
                root = mail,
                kind = "mail",
            }
        );
        await admin.WaitForJobsAsync();
        return await product.SignInAsync("ines");
    }

    private static async Task ScanAllAsync(Api who)
    {
        foreach (var source in (await who.GetOk("sources")).EnumerateArray())
        {
            await who.PostOk($"sources/{source.GetProperty("id").GetInt64()}/scans", new { });
        }

        await who.WaitForJobsAsync();
    }
}
