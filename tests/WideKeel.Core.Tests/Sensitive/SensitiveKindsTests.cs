using System.Globalization;
using CsCheck;
using WideKeel.Core.Sensitive;

namespace WideKeel.Core.Tests.Sensitive;

public class SensitiveKindsTests
{
    private static readonly SensitiveScan Scan = new(SensitiveKinds.BuiltIn);

    private static readonly (string Kind, string Number, bool Valid)[] Identifiers =
    [
        .. File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "identifiers.csv"))
            .Skip(1)
            .Select(l => l.Split(','))
            .Select(p => (p[0], p[1], p[2] == "true")),
    ];

    private static string Word(SensitiveKind kind) => kind.Nearby.Count == 0 ? "number" : kind.Nearby[0];

    [Fact]
    public void Identifiers_are_judged_as_an_independent_library_judges_them()
    {
        // 2,236 identifiers by python3-stdnum 1.18, valid and with one digit changed; Fixtures/make-identifiers.py made
        // them.
        var kinds = SensitiveKinds.BuiltIn.ToDictionary(k => k.Name);
        List<string> wrong = [];
        var judged = 0;
        foreach (var (kind, number, valid) in Identifiers.Where(i => kinds.ContainsKey(i.Kind)))
        {
            // The words nearby let even the kinds speak that say nothing without them.
            var found = kinds[kind].FindIn($"{Word(kinds[kind])} {number}.").Any();
            judged++;
            if (found != valid)
            {
                wrong.Add($"{kind} {number}");
            }
        }

        judged.ShouldBeGreaterThan(1500);
        wrong.ShouldBeEmpty();
    }

    [Fact]
    public void The_length_of_an_IBAN_is_that_of_the_registry_for_every_country()
    {
        // 82 countries of the ISO 13616 registry as python3-stdnum 1.18 carries it; Fixtures/make-iban-lengths.py drew
        // them.
        var registry = File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "iban-lengths.csv"))
            .Skip(1)
            .Select(l => l.Split(','))
            .ToList();
        registry.Count.ShouldBe(82);
        registry
            .Where(r =>
                SensitiveKinds.IbanLengths.GetValueOrDefault(r[0]) != int.Parse(r[1], CultureInfo.InvariantCulture)
            )
            .Select(r => r[0])
            .ShouldBeEmpty();
    }

    [Fact]
    public void Checksums_are_judged_as_an_independent_library_judges_them()
    {
        Dictionary<string, Func<string, bool>> sums = new()
        {
            ["luhn"] = Checksums.Luhn,
            ["verhoeff"] = Checksums.Verhoeff,
            ["mod-97-10"] = Checksums.Mod97,
            ["mod-11-2"] = Checksums.Mod11Radix2,
            ["mod-11-10"] = Checksums.Mod11Hybrid10,
        };
        var judged = Identifiers.Where(i => sums.ContainsKey(i.Kind)).ToList();
        judged.Count.ShouldBe(600);
        judged.Where(i => sums[i.Kind](i.Number) != i.Valid).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("Card 4111 1111 1111 1111, expires 12/27", "payment-card", Confidence.Certain, "4111 1111 1111 1111")]
    [InlineData("ref 5500-0000-0000-0004 end", "payment-card", Confidence.Likely, "5500-0000-0000-0004")]
    [InlineData("pay to GB82 WEST 1234 5698 7654 32 today", "iban", Confidence.Certain, "GB82 WEST 1234 5698 7654 32")]
    [InlineData("BIC DEUTDEFF500", "bic", Confidence.Likely, "DEUTDEFF500")]
    [InlineData("SSN 123-45-6789", "us-ssn", Confidence.Certain, "123-45-6789")]
    [InlineData("employer identification 12-3456789", "us-ein", Confidence.Likely, "12-3456789")]
    [InlineData("National Insurance AB 12 34 56 C", "uk-nino", Confidence.Certain, "AB 12 34 56 C")]
    [InlineData("NHS number 943 476 5919", "uk-nhs", Confidence.Certain, "943 476 5919")]
    [InlineData("DNI 12345678Z", "es-dni", Confidence.Certain, "12345678Z")]
    [InlineData("write to ines.calloway@example.org, please", "email", Confidence.Certain, "ines.calloway@example.org")]
    [InlineData("tel. +44 20 7946 0958", "phone", Confidence.Certain, "+44 20 7946 0958")]
    [InlineData("MV Kittiwake, IMO 9074729, at pier 4", "imo-number", Confidence.Certain, "IMO 9074729")]
    [InlineData(
        "Form W-2 Wage and Tax Statement 2025",
        "tax-form",
        Confidence.Certain,
        "Form W-2 Wage and Tax Statement"
    )]
    public void A_find_says_what_it_is_how_sure_and_where(string text, string kind, Confidence confidence, string found)
    {
        var find = Scan.FindIn(text).Single(f => f.Kind == kind);
        find.Confidence.ShouldBe(confidence);
        text.Substring(find.Start, find.Length).ShouldBe(found);
    }

    [Fact]
    public void The_specimen_passport_of_the_standard_is_found_over_its_two_lines()
    {
        // ICAO Doc 9303 part 4, appendix A: the specimen's machine readable zone.
        const string text =
            "Copy of passport\nP<UTOERIKSSON<<ANNA<MARIA<<<<<<<<<<<<<<<<<<<\nL898902C36UTO7408122F1204159ZE184226B<<<<<10\n";
        var find = Scan.FindIn(text).ShouldHaveSingleItem();
        (find.Kind, find.Confidence, find.Start, find.Length).ShouldBe(("passport-mrz", Confidence.Certain, 17, 89));
        Scan.FindIn(text.Replace("7408122", "7408123", StringComparison.Ordinal)).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("Order 4111 1111 1111 1112 was shipped")]
    [InlineData("Invoice 1234567890123456")]
    [InlineData("GB82 WEST 1234 5698 7654 33")]
    [InlineData("Voyage 9074728 of 2026-03-14")]
    [InlineData("000-12-3456 and 666-12-3456 and 912-00-1234")]
    [InlineData("HARBOUR DOCUMENTS REPAIRED")]
    [InlineData("drawing 12-345-678, room 020, 14.03.2026 10:30")]
    [InlineData("version 10.0.12, 192.168.10.20, 2026-06-15T08:00:00Z")]
    [InlineData("call extension 4471 or 020 7946")]
    [InlineData("someone@localhost and @handle and a@b")]
    [InlineData("1.234.567,89 and 12,345,678 crowns")]
    public void What_only_looks_alike_is_not_found(string text) => Scan.FindIn(text).ShouldBeEmpty();

    [Theory]
    [InlineData("payment-card", "4111 1111 1111 1111", "•••• •••• •••• 1111")]
    [InlineData("us-ssn", "123-45-6789", "•••-••-••89")]
    [InlineData("email", "ines.calloway@example.org", "i••••••••••••@example.org")]
    [InlineData("passport-mrz", "P<UTO", "•<•••")]
    [InlineData("tax-form", "Form 1040", "Form 1040")]
    public void A_find_is_shown_masked(string kind, string found, string masked) =>
        SensitiveKinds.BuiltIn.Single(k => k.Name == kind).Masked(found).ShouldBe(masked);

    [Fact]
    public void Generated_letters_with_known_places_are_found_and_near_misses_are_not()
    {
        // Invented letters: each holds identifiers of the independent library in the words of an ordinary letter, and
        // near-misses beside them.
        var valid = Identifiers.Where(i => i.Valid && SensitiveKinds.BuiltIn.Any(k => k.Name == i.Kind)).ToList();
        var kinds = SensitiveKinds.BuiltIn.ToDictionary(k => k.Name);
        var random = new Random(20260615);
        var (right, expected, wrong) = (0, 0, 0);
        foreach (var letter in valid.Chunk(3))
        {
            var text = "Dear Sir or Madam,\n\nyour order ";
            List<(string Kind, int Start, int Length)> planted = [];
            foreach (var (kind, number, _) in letter)
            {
                text += string.Create(
                    CultureInfo.InvariantCulture,
                    $"{random.Next(1000, 9999)} of {random.Next(1, 28)}.0{random.Next(1, 9)}.2025 is on its way "
                        + $"to room {random.Next(10, 99)}. As asked, here is the next one to be noted by our office "
                        + $"in its books for the year.\n"
                );
                text += $"The {Word(kinds[kind])} is ";
                planted.Add((kind, text.Length, number.Length));
                text += $"{number}.\n\nVoyage ";
            }

            var found = Scan.FindIn(text).Where(f => f.Confidence >= Confidence.Likely).ToList();
            expected += planted.Count;
            right += planted.Count(p =>
                found.Any(f => f.Kind == p.Kind && f.Start <= p.Start && f.Start + f.Length == p.Start + p.Length)
            );
            wrong += found.Count(f => !planted.Any(p => p.Start < f.Start + f.Length && f.Start < p.Start + p.Length));
        }

        expected.ShouldBeGreaterThan(800);
        ((double)right / expected).ShouldBeGreaterThan(0.99, "recall");
        ((double)right / (right + wrong)).ShouldBeGreaterThan(0.99, "precision");
    }

    [Fact]
    public void No_find_is_lost_by_looking_at_a_text_before_its_patterns_are_tried()
    {
        // Pieces that make and nearly make identifiers, joined at random: with and without the look beforehand the same
        // must be found.
        var pieces = Identifiers.Where(i => i.Valid).Select(i => i.Number).Take(1200).ToArray();
        var fillers = new[]
        {
            " ",
            "-",
            ". ",
            ", ",
            "\n",
            " of ",
            "IMO ",
            "+44 20 7946 0958 ",
            "a.b@example.org ",
            "ABCDEFGH ",
            "DEUTDEFF500 bank ",
            "P60 End of Year Certificate ",
            "AB 12 34 56 C ",
            "X1234567L ",
            "4111-1111-1111-1111 ",
            "(020) 7946 0958 tel ",
            "2 94 03 75 120 005 91 ",
            "1234.56.782 ",
        };
        Gen.Select(Gen.Int[0, pieces.Length - 1], Gen.Int[0, fillers.Length - 1])
            .Array[1, 6]
            .Sample(
                parts =>
                {
                    var text = string.Concat(parts.Select(p => fillers[p.Item2] + pieces[p.Item1]));
                    var traits = new TextTraits(text);
                    foreach (var kind in SensitiveKinds.BuiltIn.Where(k => !k.CanBeIn(traits)))
                    {
                        kind.FindIn(text).ShouldBeEmpty($"{kind.Name} in {text}");
                    }
                },
                iter: 5000
            );
    }
}
