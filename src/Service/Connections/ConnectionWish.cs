using System.Text.Json;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;

namespace ComeAboard.Service.Connections;

/// <summary>How a connection is to be, read from what somebody asks for.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Place">Where it is; empty for a file.</param>
/// <param name="Secret">The secret it is asked with; empty for none, or for the one there is.</param>
/// <param name="Settings">How it is read; without the certificate.</param>
/// <param name="Certificate">The certificates of who vouches for it; null for those there are, empty for none.</param>
/// <param name="Newcomers">invite, add or nothing.</param>
/// <param name="Defaults">What those who are new get, as JSON.</param>
/// <param name="Wins">Whose value of each field wins, as JSON.</param>
/// <param name="EveryHours">After how many hours it is read again; 0 for by hand only.</param>
/// <param name="Floor">How many of a hundred may be gone at once.</param>
internal sealed record ConnectionWish(
    string Name,
    string Place,
    string Secret,
    SourceSettings Settings,
    string? Certificate,
    string Newcomers,
    string Defaults,
    string Wins,
    int EveryHours,
    int Floor
)
{
    /// <summary>Where a token is asked for; null for what stands.</summary>
    public string? TokenUrl { get; init; }

    /// <summary>As which client; null for what stands.</summary>
    public string? ClientId { get; init; }

    /// <summary>Whether an address of this network is meant; null for what stands.</summary>
    public bool? AllowPrivate { get; init; }

    private const int MostHours = 720;
    private const int LongestSetting = 1_000;
    private const int LongestCertificate = 64 * 1024;

    private static readonly string[] AllNewcomers = ["invite", "add", "nothing"];

    /// <summary>Reads one; refuses with <c>name.missing</c>, <c>connection.place</c>, <c>connection.setting</c>, <c>wins.unknown</c> or <c>preset.unknown</c>.</summary>
    public static async Task<Outcome<ConnectionWish>> ReadAsync(
        Database database,
        Visitor visitor,
        IConnectionType type,
        ConnectionRequest request
    )
    {
        if (!PlainText.ReadName(request.Name).Try(out var name, out var refusal))
            return refusal;
        if (name.Length == 0)
            return new Refusal(
                "name.missing",
                "A connection needs a name.",
                "Give the one people know it by.",
                Field: "name"
            );
        if (!type.ReadPlace(request.Url).Try(out var place, out refusal))
            return refusal;
        if (!ProfileJoin.Read(request.Wins).Try(out var join, out refusal))
            return refusal;
        var newcomers = request.Newcomers?.Trim().ToLowerInvariant() ?? AllNewcomers[0];
        string[] settings =
        [
            request.Base ?? "",
            request.Filter ?? "",
            request.SignInAs ?? "",
            request.TokenUrl ?? "",
            request.ClientId ?? "",
        ];
        if (Forbids(type, request, newcomers, settings) is { } no)
            return no;
        var defaults = request.Defaults ?? new BatchDefaults();
        await using (var rows = database.Open(visitor.WorkspaceId))
            if (!(await BatchJudge.PrepareAsync(rows, defaults, visitor.World)).Try(out _, out refusal))
                return refusal;
        return new ConnectionWish(
            name,
            place,
            request.Secret ?? "",
            new SourceSettings(settings[0].Trim(), settings[1].Trim(), settings[2].Trim(), ""),
            request.Certificate,
            newcomers,
            JsonSerializer.Serialize(defaults, BatchJudge.Json),
            JsonSerializer.Serialize(join.Said),
            request.EveryHours ?? 0,
            request.Floor ?? SourceFloor.Usual
        )
        {
            TokenUrl = request.TokenUrl?.Trim(),
            ClientId = request.ClientId?.Trim(),
            AllowPrivate = request.AllowPrivate,
        };
    }

    private static Refusal? Forbids(
        IConnectionType type,
        ConnectionRequest request,
        string newcomers,
        string[] settings
    )
    {
        if (!AllNewcomers.Contains(newcomers))
            return Wrong(
                "newcomers",
                $"\"{Words.Short(newcomers)}\" does not say what becomes of new people.",
                "Say invite, add or nothing."
            );
        if (request.EveryHours is < 0 or > MostHours || request.EveryHours > 0 && type.Type == "file")
            return Wrong(
                "everyHours",
                type.Type == "file"
                    ? "A file is read when it is handed in."
                    : $"It is read every 1 to {MostHours} hours.",
                "Leave the hours out to read it by hand."
            );
        if (request.Floor is < 0 or > 100)
            return Wrong("floor", "The floor is a share of a hundred.", "Say 0 to 100.");
        if (
            settings.Any(one => one.Length > LongestSetting || one.Any(char.IsControl))
            || request.Secret?.Length > LongestSetting
            || request.Certificate?.Length > LongestCertificate
        )
            return Wrong("base", "A setting is too long, or has signs that cannot be seen.", "Check them.");
        if (request.Certificate is { Length: > 0 } pem && !Reach.IsCertificate(pem))
            return Wrong("certificate", "What was given holds no certificate.", "Give certificates as PEM.");
        return null;
    }

    private static Refusal Wrong(string field, string sentence, string remedy) =>
        new("connection.setting", sentence, remedy, Field: field);
}
