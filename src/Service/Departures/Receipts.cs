using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Departures;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>
/// Signs what became of a departure, once everything is confirmed. Each workspace has keys of its own; a key signs for a year,
/// and is shown for ever, so that what it signed can be verified.
/// </summary>
public sealed class Receipts(Database database, ServiceSettings settings, IDataProtectionProvider protection)
{
    private static readonly TimeSpan SignsFor = TimeSpan.FromDays(365);

    private readonly IDataProtector _seal = protection.CreateProtector("ComeAboard.Receipts.Key.v1");

    /// <summary>The key that a workspace signs with now, for the departures that end within one change.</summary>
    public async Task<SigningKey> KeyAsync(WorkspaceWrite write)
    {
        var kept = await write.Rows.ReceiptKeys.FirstOrDefaultAsync(k => k.Secret != "");
        if (kept is null || kept.MadeAt + SignsFor <= write.Now)
            kept = await RenewAsync(write, kept);
        var key = ECDsa.Create();
        key.ImportPkcs8PrivateKey(_seal.Unprotect(Convert.FromBase64String(kept.Secret)), out _);
        return new SigningKey(kept.Id, key);
    }

    /// <summary>Signs the receipt of a departure, within the change that ends it.</summary>
    public string Sign(
        WorkspaceWrite write,
        SigningKey key,
        DepartureRow departure,
        MemberRow member,
        IReadOnlyList<DepartureStep> steps
    )
    {
        var ended = departure.DoneAt ?? write.Now;
        var says = new Receipt(
            settings.Link("/w/" + write.Workspace.ShortName).ToString(),
            write.Workspace.Name,
            departure.Id,
            new LeaverView(departure.MemberId, departure.MemberName, departure.MemberAddress),
            member.Kind.Word(),
            departure.RequestedByName,
            departure.RequestedAt,
            departure.LastDay,
            ended,
            write.Now,
            [
                .. steps.Select(
                    (step, at) =>
                        new ReceiptStep(
                            at + 1,
                            step.Deed.Word(),
                            step.Name,
                            step.Sentence(),
                            (
                                step.State is StepState.ByHand or StepState.Done
                                    ? step.State
                                    : StepState.Confirmed
                            ).Word(),
                            step.At ?? ended,
                            step.Answer,
                            step.By
                        )
                        {
                            File = DepartureViews.FileOf(step),
                        }
                ),
            ],
            new ReceiptHead(write.Head.Sequence, write.Head.Hash)
        );
        return ReceiptSeal.Sign(says, key.Key, key.Id);
    }

    /// <summary>The keys of a workspace for verifying; none for a workspace that there is not, or that signed nothing as yet.</summary>
    public async Task<ReceiptKeys> ShownAsync(string shortName)
    {
        await using var rows = database.Open();
        var shown = await (
            from key in rows.ReceiptKeys.IgnoreQueryFilters()
            join workspace in rows.Workspaces on key.WorkspaceId equals workspace.Id
            where workspace.ShortName == shortName
            orderby key.MadeAt descending
            select key.Shown
        ).ToListAsync();
        return new ReceiptKeys([
            .. shown.Select(one => JsonSerializer.Deserialize(one, WireJson.Default.ReceiptKey)!),
        ]);
    }

    private async Task<ReceiptKeyRow> RenewAsync(WorkspaceWrite write, ReceiptKeyRow? before)
    {
        if (before is not null)
            before.Secret = "";
        using var made = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var shown = ReceiptSeal.ShownOf(made);
        var key = new ReceiptKeyRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = shown.Kid,
            MadeAt = write.Now,
            Secret = Convert.ToBase64String(_seal.Protect(made.ExportPkcs8PrivateKey())),
            Shown = JsonSerializer.Serialize(shown, WireJson.Default.ReceiptKey),
        };
        write.Insert(key);
        write.Record("receipt-key.made", write.Workspace.Id, ("key", key.Id));
        // Whoever ends next within this change finds it.
        await write.SaveAsync();
        return key;
    }
}

/// <summary>A key that receipts are signed with.</summary>
/// <param name="Id">What it is called.</param>
/// <param name="Key">The key; gone with this.</param>
public sealed record SigningKey(string Id, ECDsa Key) : IDisposable
{
    /// <inheritdoc/>
    public void Dispose() => Key.Dispose();
}

/// <summary>The key of those that end within one change, taken out when the first does.</summary>
public sealed class KeyInUse(Receipts receipts, WorkspaceWrite write) : IDisposable
{
    private SigningKey? _key;

    /// <summary>The key.</summary>
    public async Task<SigningKey> GetAsync() => _key ??= await receipts.KeyAsync(write);

    /// <inheritdoc/>
    public void Dispose() => _key?.Dispose();
}
