using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

public sealed class WeakPasswordTests
{
    private static readonly HashSet<string> Listed = ["password", "qwerty", "letmein", "123456", "iloveyou"];

    [Theory]
    [InlineData("password")]
    [InlineData("PassWord")]
    [InlineData("password1234")]
    [InlineData("!!password!!2026")]
    [InlineData("qwertyqwerty")]
    [InlineData("letmeinletmein")]
    [InlineData("aaaaaaaaaaaa")]
    [InlineData("abcabcabcabc")]
    [InlineData("987654321098")]
    public void One_that_is_guessed_first_is_refused(string password) =>
        WeakPassword.Why(password, null, Listed).ShouldNotBeNull();

    [Theory]
    [InlineData("ann.hale@tarn.example")]
    [InlineData("xx-ann.hale@tarn.example-xx")]
    [InlineData("Ann-Hale-2026")]
    [InlineData("hale.tarn.26")]
    public void One_that_is_little_more_than_the_own_address_is_refused(string password) =>
        WeakPassword.Why(password, "ann.hale@tarn.example", Listed).ShouldNotBeNull();

    [Theory]
    [InlineData("quiet-harbour-12")]
    [InlineData("my password is a sentence")]
    [InlineData("Hale winds over the pier")]
    public void Any_other_may_be_chosen(string password) =>
        WeakPassword.Why(password, "ann.hale@tarn.example", Listed).ShouldBeNull();
}
