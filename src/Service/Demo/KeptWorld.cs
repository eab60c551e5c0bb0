using System.Data.Common;
using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Core.Workspaces;
using ComeAboard.Standins.Mail;
using ComeAboard.Storage;
using ComeAboard.Storage.Copies;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;
using MimeKit;

namespace ComeAboard.Service.Demo;

/// <summary>
/// The demo world as it was when it had been made, kept for a few days: what has become due since then happens on its
/// start, as in a service that was stopped over night. A program that was built anew makes its own.
/// </summary>
public sealed class KeptWorld
{
    private const string Rows = "come-aboard.db";
    private const string Rest = "rest.json";
    private const UnixFileMode Own =
        UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;

    // Its days were counted from the one on which it was made; later than this too much of it is over.
    private const int LongestDays = 3;
    private static readonly TimeSpan LongestWait = TimeSpan.FromSeconds(5);

    private readonly string _place;
    private readonly string _directory;
    private readonly string _url;
    private readonly DateOnly _today;

    /// <param name="place">Where such worlds are kept, beside each other.</param>
    /// <param name="url">Where the service is reached: its mails hold links to it.</param>
    /// <param name="now">The instant from which the days of this one count.</param>
    /// <param name="zone">The time zone of its people.</param>
    public KeptWorld(string place, Uri url, DateTimeOffset now, TimeZoneInfo zone)
    {
        (_place, _url, _today) = (place, url.ToString().TrimEnd('/'), Days.Of(now, zone));
        _directory = Path.Combine(place, $"{_today:yyyy-MM-dd}-{ProgramMark()}");
    }

    /// <summary>Where one user's worlds are kept: in the cache directory of the XDG Base Directory Specification.</summary>
    public static string UsualPlace() =>
        Path.Combine(
            Environment.GetEnvironmentVariable("XDG_CACHE_HOME") is { Length: > 0 } cache
                ? cache
                : Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".cache"),
            "come-aboard",
            "demo"
        );

    /// <summary>Lays the newest world out that is kept: its database to a path, its mails into an inbox.</summary>
    /// <returns>Its administrator's API token; null when it has to be made.</returns>
    public async Task<string?> TakeAsync(string database, Inbox inbox)
    {
        foreach (var world in Kept().Where(world => world.EndsWith(ProgramMark(), StringComparison.Ordinal)))
        {
            if (await TakeAsync(world, database, inbox) is { } token)
                return token;
        }
        return null;
    }

    private async Task<string?> TakeAsync(string world, string database, Inbox inbox)
    {
        try
        {
            await using var file = File.OpenRead(Path.Combine(world, Rest));
            var rest = (await JsonSerializer.DeserializeAsync<KeptRest>(file))!;
            var mails = new List<(KeptMail Kept, MimeMessage Message)>();
            foreach (var mail in rest.Mails)
                mails.Add((mail, await mail.ReadAsync(rest.Url, _url)));
            File.Copy(Path.Combine(world, Rows), database);
            // Only when all of it is there: a world that has to be made after all begins with an empty inbox.
            foreach (var (kept, message) in mails)
                inbox.Add(kept.Recipients, message, kept.At);
            return rest.Token;
        }
        catch (Exception fault)
            when (fault is IOException or UnauthorizedAccessException or JsonException or FormatException)
        {
            Forget(world);
            return null;
        }
    }

    /// <summary>The worlds there are, of this program and of others, that are not too old; the newest first.</summary>
    private IEnumerable<string> Kept() =>
        Directory.Exists(_place)
            ? Directory
                .GetDirectories(_place)
                .Where(world =>
                    DayOf(world) is { } day && day <= _today && day > _today.AddDays(-LongestDays)
                )
                .OrderDescending(StringComparer.Ordinal)
            : [];

    private static DateOnly? DayOf(string world) =>
        DateOnly.TryParseExact(
            Path.GetFileName(world)[..Math.Min(10, Path.GetFileName(world).Length)],
            "yyyy-MM-dd",
            out var day
        )
            ? day
            : null;

    /// <summary>Keeps the world, once its mails have gone out. A place that cannot be written to keeps nothing.</summary>
    public async Task KeepAsync(Database database, Inbox inbox, string token)
    {
        if (!await HasSentAllAsync(database))
            return;
        var making = $"{_directory}.{Guid.NewGuid():N}";
        try
        {
            Directory.CreateDirectory(_place, Own);
            ForgetOldOnes();
            Directory.CreateDirectory(making, Own);
            await Copying.SaveAsync(database, Path.Combine(making, Rows));
            await using (var file = File.Create(Path.Combine(making, Rest)))
                await JsonSerializer.SerializeAsync(
                    file,
                    new KeptRest(_url, token, [.. inbox.To().Reverse().Select(KeptMail.Of)])
                );
            if (Directory.Exists(_directory))
                Directory.Delete(making, true);
            else
                Directory.Move(making, _directory);
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException or DbException) { }
    }

    private void ForgetOldOnes()
    {
        foreach (var world in Directory.GetDirectories(_place).Except(Kept()))
            Forget(world);
    }

    private static void Forget(string world)
    {
        try
        {
            if (Directory.Exists(world))
                Directory.Delete(world, true);
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException) { }
    }

    private static async Task<bool> HasSentAllAsync(Database database)
    {
        for (var end = DateTimeOffset.UtcNow + LongestWait; DateTimeOffset.UtcNow < end; )
        {
            await using var rows = database.Open();
            if (!await rows.Deliveries.IgnoreQueryFilters().AnyAsync(mail => mail.State == DeliveryState.Due))
                return true;
            await Task.Delay(50);
        }
        return false;
    }

    /// <summary>Differs between two programs that could make different worlds.</summary>
    private static string ProgramMark()
    {
        var modules = new[]
        {
            typeof(KeptWorld),
            typeof(Database),
            typeof(Core.Refusal),
            typeof(Inbox),
            typeof(Client.AboardClient),
        };
        var ids = modules.SelectMany(type => type.Module.ModuleVersionId.ToByteArray()).ToArray();
        return Convert.ToHexStringLower(SHA256.HashData(ids))[..12];
    }

    private sealed record KeptRest(string Url, string Token, IReadOnlyList<KeptMail> Mails);

    private sealed record KeptMail(DateTimeOffset At, IReadOnlyList<string> Recipients, byte[] Message)
    {
        public static KeptMail Of(ReceivedMail mail)
        {
            using var bytes = new MemoryStream();
            mail.Message.WriteTo(bytes);
            return new KeptMail(mail.At, mail.Recipients, bytes.ToArray());
        }

        /// <summary>The mail, its links leading to where the service is reached now.</summary>
        public async Task<MimeMessage> ReadAsync(string from, string to)
        {
            var message = await MimeMessage.LoadAsync(new MemoryStream(Message));
            if (from == to)
                return message;
            foreach (var part in message.BodyParts.OfType<TextPart>())
                part.Text = part.Text.Replace(from, to, StringComparison.Ordinal);
            foreach (var header in message.Headers.Where(header => header.Value.Contains(from)))
                header.Value = header.Value.Replace(from, to, StringComparison.Ordinal);
            return message;
        }
    }
}
