using Microsoft.AspNetCore.Identity;
using WideKeel.Core.People;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Refuses the passwords of the list that ships with the product, and one's own address.</summary>
internal sealed class CommonPasswords : IPasswordValidator<Person>
{
    private static readonly Lazy<HashSet<string>> Listed = new(Read);

    public Task<IdentityResult> ValidateAsync(UserManager<Person> manager, Person user, string? password) =>
        Task.FromResult(
            password is not null && WeakPassword.Why(password, user.Email, Listed.Value) is { } why
                ? IdentityResult.Failed(new IdentityError { Code = "PasswordCommon", Description = why })
                : IdentityResult.Success
        );

    private static HashSet<string> Read()
    {
        using var list = new StreamReader(
            typeof(CommonPasswords).Assembly.GetManifestResourceStream("common-passwords.txt")!
        );
        return [.. list.ReadToEnd().Split('\n', StringSplitOptions.RemoveEmptyEntries).Where(l => l[0] != '#')];
    }
}
