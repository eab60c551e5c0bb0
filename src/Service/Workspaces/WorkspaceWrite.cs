using System.Security.Cryptography;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Record;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Record;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// One change of a workspace while it is being made: nobody else changes the workspace meanwhile. What is added here
/// is kept only together.
/// </summary>
public sealed class WorkspaceWrite(
    ComeAboardContext rows,
    WorkspaceRow workspace,
    RecordHead head,
    Caller caller,
    DateTimeOffset now
)
{
    private static readonly JsonSerializerOptions Readable = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    public ComeAboardContext Rows => rows;
    public WorkspaceRow Workspace => workspace;
    public Caller Caller => caller;
    public DateTimeOffset Now => now;
    public DateOnly Today => Days.Of(now, workspace.Zone);

    /// <summary>The end of the record with what this change wrote.</summary>
    public RecordHead Head { get; private set; } = head;

    /// <summary>How the numbers of invitations by state change.</summary>
    public Dictionary<InvitationState, int> Moves { get; } = [];

    /// <summary>Whether mail waits to be sent once this is kept.</summary>
    public bool HasMail { get; private set; }

    /// <summary>Writes into the record what is being done.</summary>
    /// <param name="action">What: <c>invitation.queued</c>.</param>
    /// <param name="subject">To what.</param>
    /// <param name="details">Names, before and after.</param>
    public void Record(
        string action,
        Guid subject,
        params ReadOnlySpan<(string Name, object? Value)> details
    ) => RecordBy(caller, action, subject, details);

    /// <summary>Writes into the record what is being done for one of several callers whose changes are made together.</summary>
    public void RecordBy(
        Caller by,
        string action,
        Guid subject,
        params ReadOnlySpan<(string Name, object? Value)> details
    )
    {
        var json = new JsonObject { ["by"] = by.Name };
        foreach (var (name, value) in details)
        {
            if (value is not null)
                json[name] = value is int number ? number : value.ToString();
        }
        var happening = new Happening(
            now,
            by.Actor,
            by.Via,
            action,
            subject.ToString(),
            json.ToJsonString(Readable)
        );
        var entry = RecordChain.Append(Head, happening, RandomNumberGenerator.GetBytes(16));
        Head = RecordChain.After(entry);
        rows.Record.Add(RecordRow.Of(workspace.Id, entry));
    }

    /// <summary>Notes that an invitation left one state (null for a new one) for another.</summary>
    public void Move(InvitationState? from, InvitationState to)
    {
        if (from == to)
            return;
        if (from is { } left)
            Moves[left] = Moves.GetValueOrDefault(left) - 1;
        Moves[to] = Moves.GetValueOrDefault(to) + 1;
    }

    /// <summary>Puts a mail beside the change it announces.</summary>
    public void Queue(DeliveryRow delivery)
    {
        rows.Deliveries.Add(delivery);
        HasMail = true;
    }

    /// <summary>
    /// The calling member with a duty, as they are at this very moment, or the refusal: rights are looked at again when
    /// they take effect, not only when the request came in.
    /// </summary>
    public async Task<Outcome<MemberRow>> RequireAsync(Duties duty)
    {
        var member = await rows.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == caller.MemberId);
        if (member is null || !member.IsActive(now, workspace.Zone))
            return Visitors.Ended;
        return member.CoreRole.DutiesFor(member.Kind).HasFlag(duty) ? member : Rights.Missing(duty);
    }

    /// <summary>Some members as they are at this very moment.</summary>
    public async Task<IReadOnlyDictionary<Guid, MemberRow>> MembersAsync(IReadOnlyList<Guid> ids) =>
        await rows.Members.AsNoTracking().Where(m => ids.Contains(m.Id)).ToDictionaryAsync(m => m.Id);
}
