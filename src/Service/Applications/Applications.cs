using System.Text.Json;
using ComeAboard.Client.Applications;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Applications;
using Microsoft.EntityFrameworkCore;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Applications;

/// <summary>The applications that a workspace registers: those people sign in to with us, and those that act by themselves.</summary>
public sealed class Applications(Database database, WorkspaceWriter writer, LookedAtTokens looked)
{
    private const int MostApplications = 100;

    private static Refusal NotFound { get; } =
        CommonRefusals.NotFound with
        {
            Remedy = "See which there are: aboard applications list",
        };

    /// <summary>The applications of a workspace, by name.</summary>
    public async Task<Page<ApplicationView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Applications.AsNoTracking().OrderBy(a => a.NameKey).ToListAsync();
        var views = new List<ApplicationView>();
        foreach (var row in found)
            views.Add(await ViewAsync(rows, row, visitor.World));
        return new Page<ApplicationView>(views, null);
    }

    /// <summary>One application, by its name or id.</summary>
    public async Task<Outcome<ApplicationView>> ShowAsync(Visitor visitor, string application)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await FindAsync(rows, application) is { } row
            ? await ViewAsync(rows, row, visitor.World)
            : NotFound;
    }

    /// <summary>Registers an application; its secret is shown this once.</summary>
    public Task<Outcome<NewApplication>> AddAsync(Visitor visitor, ApplicationRequest request) =>
        writer.WriteAsync<NewApplication>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await ApplicationForm.ReadAsync(write, request)).Try(out var wanted, out var refusal))
                    return refusal;
                if (await write.Rows.Applications.CountAsync() >= MostApplications)
                    return new Refusal(
                        "application.too-many",
                        $"There are {MostApplications} applications already.",
                        "Remove one that is not needed.",
                        RefusalSort.Conflict
                    );
                if (await ExistsAsync(write, wanted, null) is { } exists)
                    return exists;
                if (wanted.ActsFor is not null && request.IsPublic)
                    return new Refusal(
                        "application.public-acts",
                        "An application that cannot keep a secret cannot act by itself.",
                        "Let it have a secret, or let people sign in to it.",
                        Field: "isPublic"
                    );
                var row = new ApplicationRow
                {
                    WorkspaceId = visitor.WorkspaceId,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = wanted.Name,
                    NameKey = wanted.NameKey,
                    Duties = wanted.Duties,
                    AddedAt = write.Now,
                    AddedByName = visitor.Member.Name,
                };
                var secret = request.IsPublic ? null : ApiTokens.NewSecret();
                var client = new OAuthClientRow
                {
                    Id = row.Id,
                    ClientId = row.Id.ToString("N"),
                    ClientType = secret is null ? ClientTypes.Public : ClientTypes.Confidential,
                    ClientSecret = secret?.Hash().Value,
                    ConsentType = ConsentTypes.Explicit,
                };
                write.Rows.Applications.Add(row);
                write.Rows.OAuthClients.Add(client);
                await PutAsync(write, row, client, wanted);
                var view = await RecordAsync(write, row, "application.added");
                return new NewApplication(
                    view,
                    secret is null || write.Caller.Rehearses ? "" : secret.Reveal()
                );
            }
        );

    /// <summary>Says anew what an application is; what it may no longer do it can do no more, with whatever tokens it has.</summary>
    public Task<Outcome<ApplicationView>> ChangeAsync(
        Visitor visitor,
        string application,
        ApplicationRequest request,
        int? expectedVersion
    ) =>
        writer.WriteAsync<ApplicationView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (
                    !(await ActOnAsync(write, application, expectedVersion)).Try(out var row, out var refusal)
                )
                    return refusal;
                if (!(await ApplicationForm.ReadAsync(write, request)).Try(out var wanted, out refusal))
                    return refusal;
                if (await ExistsAsync(write, wanted, row.Id) is { } exists)
                    return exists;
                var client = await write.Rows.OAuthClients.FirstAsync(c => c.Id == row.Id);
                if (wanted.ActsFor is not null && client.ClientSecret is null)
                    return new Refusal(
                        "application.public-acts",
                        "An application that cannot keep a secret cannot act by itself.",
                        "Register one that has a secret.",
                        Field: "actsFor"
                    );
                (row.Name, row.NameKey, row.Duties) = (wanted.Name, wanted.NameKey, wanted.Duties);
                row.Version++;
                await PutAsync(write, row, client, wanted);
                return await RecordAsync(write, row, "application.changed");
            }
        );

    /// <summary>Gives an application another secret; the one it had does not count any more.</summary>
    public Task<Outcome<NewApplication>> RenewSecretAsync(Visitor visitor, string application) =>
        writer.WriteAsync<NewApplication>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await ActOnAsync(write, application, null)).Try(out var row, out var refusal))
                    return refusal;
                var client = await write.Rows.OAuthClients.FirstAsync(c => c.Id == row.Id);
                if (client.ClientSecret is null)
                    return new Refusal(
                        "application.no-secret",
                        "An application on people's own devices has no secret.",
                        "Nothing needs doing.",
                        RefusalSort.Conflict
                    );
                var secret = ApiTokens.NewSecret();
                client.ClientSecret = secret.Hash().Value;
                row.Version++;
                write.Record("application.secret-renewed", row.Id, ("name", row.Name));
                var view = await ViewAsync(write.Rows, row, await write.WorldAsync());
                return new NewApplication(view, write.Caller.Rehearses ? "" : secret.Reveal());
            }
        );

    /// <summary>Removes an application; nobody signs in to it any more, and every token of it is dead.</summary>
    public async Task<Outcome<ApplicationView>> RemoveAsync(Visitor visitor, string application)
    {
        var removed = await writer.WriteAsync<ApplicationView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (await FindAsync(write.Rows, application) is not { } row)
                    return NotFound;
                var (id, view) = (row.Id, await ViewAsync(write.Rows, row, await write.WorldAsync()));
                write.Rows.Applications.Remove(row);
                await write.SaveAsync();
                await write.Rows.OAuthTokens.Where(t => t.ApplicationId == id).ExecuteDeleteAsync();
                await write.Rows.OAuthSignOns.Where(s => s.ApplicationId == id).ExecuteDeleteAsync();
                await write.Rows.OAuthClients.Where(c => c.Id == id).ExecuteDeleteAsync();
                write.Record(
                    "application.removed",
                    id,
                    ("name", view.Name),
                    ("sign-ins ended", view.SignedIn)
                );
                return view;
            }
        );
        looked.Clear();
        return removed;
    }

    /// <summary>Sees to it that the client of the service's own is registered: public, and for devices only.</summary>
    public async Task EnsureOwnAsync()
    {
        await using var rows = database.Open();
        if (await rows.OAuthClients.AnyAsync(c => c.ClientId == ProgramScopes.OwnClient))
            return;
        rows.OAuthClients.Add(
            new OAuthClientRow
            {
                Id = Guid.CreateVersion7(),
                ClientId = ProgramScopes.OwnClient,
                ClientType = ClientTypes.Public,
                ApplicationType = ApplicationTypes.Native,
                ConsentType = ConsentTypes.Explicit,
                DisplayName = "aboard",
                ConcurrencyToken = Guid.NewGuid().ToString(),
                Permissions = JsonSerializer.Serialize<string[]>([
                    Permissions.Endpoints.DeviceAuthorization,
                    Permissions.Endpoints.Token,
                    Permissions.Endpoints.Revocation,
                    Permissions.GrantTypes.DeviceCode,
                    Permissions.GrantTypes.RefreshToken,
                    Permissions.Prefixes.Scope + ProgramScopes.AsMe,
                ]),
            }
        );
        try
        {
            await rows.SaveChangesAsync();
        }
        catch (DbUpdateException)
        {
            // Another process was first.
        }
    }

    private static async Task<Refusal?> ExistsAsync(
        WorkspaceWrite write,
        ApplicationForm wanted,
        Guid? but
    ) =>
        await write.Rows.Applications.AnyAsync(a => a.NameKey == wanted.NameKey && a.Id != but)
            ? new Refusal(
                "application.exists",
                $"There is an application \"{wanted.Name}\" already.",
                "Choose another name, or change that one.",
                RefusalSort.Conflict,
                "name"
            )
            : null;

    /// <summary>
    /// An application that whoever asks may change: what it may do they must be able to give, since changing where people come
    /// back to is having what it has.
    /// </summary>
    private static async Task<Outcome<ApplicationRow>> ActOnAsync(
        WorkspaceWrite write,
        string application,
        int? expectedVersion
    )
    {
        if (!(await write.RequireAsync(Duties.Settings)).Try(out var actor, out var refusal))
            return refusal;
        if (await FindAsync(write.Rows, application) is not { } row)
            return NotFound;
        if (expectedVersion is { } version && version != row.Version)
            return CommonRefusals.Stale;
        var world = await write.WorldAsync();
        if ((row.Duties & ~world.DutiesOf(actor.Id, write.Today)) is var beyond and not Duties.None)
            return DutyWords.Missing(beyond);
        return row;
    }

    /// <summary>Writes what the protocol needs of an application, and what it acts by itself by.</summary>
    private static async Task PutAsync(
        WorkspaceWrite write,
        ApplicationRow row,
        OAuthClientRow client,
        ApplicationForm wanted
    )
    {
        row.ResourceId = wanted.Resource?.Id;
        row.ActsForId = wanted.ActsFor;
        row.SignOutAddress = wanted.SignOutAddress;
        client.DisplayName = wanted.Name;
        client.ApplicationType = ApplicationTypes.Web;
        client.RedirectUris = JsonSerializer.Serialize(wanted.Redirects);
        client.PostLogoutRedirectUris = JsonSerializer.Serialize(wanted.AfterSignOut);
        client.Requirements = JsonSerializer.Serialize<string[]>([
            Requirements.Features.ProofKeyForCodeExchange,
        ]);
        client.Permissions = JsonSerializer.Serialize(wanted.Permissions());
        client.ConcurrencyToken = Guid.NewGuid().ToString();
        await write.SaveAsync();
        var own = await write.Rows.OAuthSignOns.FirstOrDefaultAsync(s => s.Id == row.Id);
        if (wanted.ActsFor is null)
        {
            own?.Status = Statuses.Revoked;
            return;
        }
        if (own is null)
            write.Rows.OAuthSignOns.Add(
                own = new OAuthSignOnRow
                {
                    Id = row.Id,
                    ApplicationId = row.Id,
                    WorkspaceId = row.WorkspaceId,
                    Subject = client.ClientId,
                    Type = AuthorizationTypes.Permanent,
                    CreationDate = write.Now.UtcDateTime,
                }
            );
        own.MemberId = wanted.ActsFor;
        own.Scopes = JsonSerializer.Serialize(wanted.Duties.List());
        own.Status = Statuses.Valid;
        own.ConcurrencyToken = Guid.NewGuid().ToString();
    }

    private static async Task<ApplicationView> RecordAsync(
        WorkspaceWrite write,
        ApplicationRow row,
        string action
    )
    {
        await write.SaveAsync();
        var view = await ViewAsync(write.Rows, row, await write.WorldAsync());
        (string, object?)[] details =
        [
            ("name", view.Name),
            ("resource", Or(view.Resource)),
            ("addresses", Or(string.Join(" ", view.Redirects))),
            ("duties", Or(string.Join(" ", view.Duties))),
            ("acts for", Or(view.ActsFor)),
        ];
        if (action == "application.added")
            write.Record("application.added", row.Id, details);
        else
            write.Record("application.changed", row.Id, details);
        return view;

        static string? Or(string text) => text.Length > 0 ? text : null;
    }

    private static async Task<ApplicationRow?> FindAsync(ComeAboardContext rows, string application)
    {
        var key = application.Trim().ToLowerInvariant();
        return Guid.TryParse(application, out var id)
            ? await rows.Applications.FirstOrDefaultAsync(a => a.Id == id)
            : await rows.Applications.FirstOrDefaultAsync(a => a.NameKey == key);
    }

    private static async Task<ApplicationView> ViewAsync(
        ComeAboardContext rows,
        ApplicationRow row,
        AccessWorld world
    )
    {
        var client = await rows.OAuthClients.AsNoTracking().FirstAsync(c => c.Id == row.Id);
        var signedIn = await rows.OAuthSignOns.CountAsync(s =>
            s.ApplicationId == row.Id
            && s.Status == Statuses.Valid
            && s.Sid != null
            && (!s.EndsWithSession || s.SessionId != null)
        );
        return new ApplicationView(
            row.Id,
            row.Name,
            client.ClientId!,
            client.ClientSecret is not null,
            row.ResourceId is { } id && world.Resources.TryGetValue(id, out var resource)
                ? resource.Name
                : "",
            ListIn(client.RedirectUris),
            ListIn(client.PostLogoutRedirectUris),
            row.SignOutAddress ?? "",
            row.Duties.List(),
            row.ActsForId is { } acts
                ? await rows.Members.Where(m => m.Id == acts).Select(m => m.Address).FirstOrDefaultAsync()
                    ?? ""
                : "",
            signedIn,
            row.AddedAt,
            row.AddedByName,
            row.Version
        );
    }

    private static string[] ListIn(string? json) =>
        json is null ? [] : JsonSerializer.Deserialize<string[]>(json) ?? [];
}
