using System.Security.Cryptography;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Keys;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.SignIn;
using ComeAboard.Storage.Workspaces;
using CsCheck;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

/// <summary>A harbour whose protection keys are sealed with a file, and whose inviters may cause few mails by lists.</summary>
public sealed class SealedHarbour() : Harbour(null)
{
    public string File { get; } = Path.GetTempFileName();

    protected override void Adjust(Dictionary<string, string?> settings)
    {
        System.IO.File.WriteAllBytes(File, RandomNumberGenerator.GetBytes(48));
        settings["Keys:File"] = File;
        settings["Limits:ListedPerDay"] = "5";
    }
}

/// <summary>What the operator's own settings bring about: sealed keys, and bounds on mail by lists.</summary>
public sealed class Sealed(SealedHarbour harbour) : IClassFixture<SealedHarbour>
{
    [Fact]
    public void What_a_file_seals_only_the_same_file_opens_and_only_unchanged()
    {
        var ours = KeyFile.Load(harbour.File);
        var path = Path.GetTempFileName();
        File.WriteAllBytes(path, RandomNumberGenerator.GetBytes(32));
        var another = KeyFile.Load(path);
        Gen.Select(Gen.String, Gen.Int[0, 10_000])
            .Sample(
                (text, at) =>
                {
                    var cipher = ours.Seal(text);
                    Assert.Equal(text, ours.Open(cipher));
                    Assert.NotEqual(cipher, ours.Seal(text));
                    Assert.ThrowsAny<CryptographicException>(() => another.Open(cipher));
                    var bytes = Convert.FromBase64String(cipher);
                    bytes[at % bytes.Length] ^= 1;
                    Assert.ThrowsAny<CryptographicException>(() => ours.Open(Convert.ToBase64String(bytes)));
                },
                iter: 300
            );
        File.WriteAllBytes(path, new byte[31]);
        Assert.Contains(
            "Keys:File",
            Assert.Throws<WrongSettingException>(() => KeyFile.Load(path)).Message,
            StringComparison.Ordinal
        );
        File.Delete(path);
        Assert.Throws<WrongSettingException>(() => KeyFile.Load(path));
    }

    [Fact]
    public async Task Reading_the_database_opens_nothing_that_is_sealed_and_both_nodes_open_it()
    {
        var protector = harbour
            .Node.Services.GetRequiredService<IDataProtectionProvider>()
            .CreateProtector("test");
        var text = protector.Protect("a lantern at high tide");
        await using (var rows = harbour.Database.Open())
        {
            var keys = await rows.ProtectionKeys.AsNoTracking().ToListAsync();
            Assert.NotEmpty(keys);
            Assert.All(
                keys,
                key =>
                {
                    Assert.Contains("sealedByFile", XmlOf(key), StringComparison.Ordinal);
                    Assert.DoesNotContain("masterKey>", XmlOf(key), StringComparison.Ordinal);
                }
            );
        }
        Assert.Equal(
            "a lantern at high tide",
            harbour
                .OtherNode.Services.GetRequiredService<IDataProtectionProvider>()
                .CreateProtector("test")
                .Unprotect(text)
        );
    }

    [Fact]
    public async Task One_inviter_causes_only_so_many_mails_a_day_by_lists_and_by_steps_for_many()
    {
        var ship = await harbour.NewShipAsync();
        var list = await ListAsync("a", 4);
        await ship.Client.SendBatchAsync(list);
        await Patience.UntilAsync(() => ship.Client.BatchAsync(list), batch => batch.State == "resting");
        // Sending what is sent already is refused, and costs nothing.
        Assert.Equal("batch.nothing-ready", await CodeOf(ship.Client.SendBatchAsync(list)));
        // One is left of five: a list of two does not fit, and nothing of it goes out.
        var more = await ListAsync("b", 2);
        Assert.Equal("too-many", await CodeOf(ship.Client.SendBatchAsync(more)));
        Assert.Equal("resting", (await ship.Client.BatchAsync(more)).State);
        var sent = (await ship.Client.InvitationsAsync()).Items.Select(i => i.Id).ToList();
        Assert.Equal(4, sent.Count);
        Assert.Equal("too-many", await CodeOf(ship.Client.TakeStepsAsync(new StepsRequest("resend", sent))));
        // What only tries, or mails nothing, costs nothing; and one more fits.
        await ship.Client.TakeStepsAsync(new StepsRequest("resend", sent) { DryRun = true });
        Assert.Equal(3, (await ship.Client.TakeStepsAsync(new StepsRequest("revoke", sent[..3]))).Done);
        await ship.Client.TakeStepsAsync(new StepsRequest("resend", [sent[3]]));
        Assert.Equal(
            "too-many",
            await CodeOf(ship.Client.TakeStepsAsync(new StepsRequest("resend", sent[3..])))
        );
        // Singly they have a budget of their own, and a day later lists go on.
        await ship.InviteAsync(ship.Address("single"));
        await harbour.LetPassAsync(TimeSpan.FromDays(1.1));
        await ship.Client.SendBatchAsync(more);

        async Task<Guid> ListAsync(string name, int people)
        {
            var text = string.Join('\n', Enumerable.Range(0, people).Select(n => ship.Address(name + n)));
            var added = await ship.Client.AddPastedAsync(
                new PastedRequest(text, name, new BatchDefaults(Kind: "guest", Role: "view"))
            );
            await Patience.UntilAsync(
                () => ship.Client.BatchAsync(added.Id),
                batch => batch.State == "resting"
            );
            return added.Id;
        }
    }

    private static string XmlOf(ProtectionKeyRow key) => key.Xml;
}
