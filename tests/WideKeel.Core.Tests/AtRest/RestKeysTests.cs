using System.Security.Cryptography;
using NodaTime;
using WideKeel.Core.AtRest;

namespace WideKeel.Core.Tests.AtRest;

public sealed class RestKeysTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 6, 15, 8, 0);
    private readonly byte[] master = RandomNumberGenerator.GetBytes(RestKeys.MasterBytes);
    private readonly byte[] nextMaster = RandomNumberGenerator.GetBytes(RestKeys.MasterBytes);

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static async Task<byte[]> EncryptAsync(RestKeys keys)
    {
        using var cipher = new MemoryStream();
        await keys.EncryptAsync("n", new MemoryStream("pier"u8.ToArray()), cipher, Stop);
        return cipher.ToArray();
    }

    private static string Decrypt(RestKeys keys, byte[] cipher)
    {
        using var reader = new StreamReader(keys.Decrypt("n", new MemoryStream(cipher)));
        return reader.ReadToEnd();
    }

    [Fact]
    public async Task Keys_that_were_wrapped_and_unwrapped_read_what_was_encrypted_before()
    {
        var keys = RestKeys.Begin(Guid.NewGuid(), Now);
        var cipher = await EncryptAsync(keys);
        Decrypt(RestKeys.Read(keys.ToJson(master), master).Value, cipher).ShouldBe("pier");
    }

    [Fact]
    public async Task A_rotation_keeps_reading_what_the_former_key_encrypted()
    {
        var keys = RestKeys.Begin(Guid.NewGuid(), Now);
        var cipher = await EncryptAsync(keys);
        var rotated = keys.Rotated(Guid.NewGuid(), Now + Duration.FromDays(90));
        Decrypt(RestKeys.Read(rotated.ToJson(nextMaster), nextMaster).Value, cipher).ShouldBe("pier");
    }

    [Fact]
    public async Task After_a_rotation_the_new_key_encrypts()
    {
        var keys = RestKeys.Begin(Guid.NewGuid(), Now);
        var cipher = await EncryptAsync(keys.Rotated(Guid.NewGuid(), Now));
        Should.Throw<UnreadableAtRestException>(() => Decrypt(keys, cipher)).Message.ShouldContain("not among the 1");
    }

    [Fact]
    public void The_former_master_key_does_not_open_rotated_keys()
    {
        var rotated = RestKeys.Begin(Guid.NewGuid(), Now).Rotated(Guid.NewGuid(), Now);
        RestKeys.Read(rotated.ToJson(nextMaster), master).Refusal!.Code.ShouldBe("keys-not-opened");
    }

    [Fact]
    public void Keys_on_disk_are_not_readable_as_they_are()
    {
        var keys = RestKeys.Begin(Guid.NewGuid(), Now);
        keys.ToJson(master).ShouldNotContain(Convert.ToBase64String(keys.Newest.Bytes.Span));
    }

    [Theory]
    [InlineData("")]
    [InlineData("[]")]
    [InlineData("{\"master\":\"x\",\"keys\":[]}")]
    [InlineData("{\"master\":\"00000000-0000-0000-0000-000000000000\",\"keys\":[]}")]
    [InlineData("{\"master\":\"00000000-0000-0000-0000-000000000000\",\"keys\":[{\"id\":7}]}")]
    public void A_file_that_holds_no_keys_is_refused(string json) =>
        RestKeys.Read(json, master).Refusal!.Code.ShouldBe("keys-malformed");

    [Fact]
    public void A_content_that_is_not_encrypted_is_not_taken_for_one_that_is() =>
        Should.Throw<UnreadableAtRestException>(() =>
            Decrypt(RestKeys.Begin(Guid.NewGuid(), Now), "PAR1 and more of it, more than a header"u8.ToArray())
        );
}
