using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Requests that carried an idempotency key, and how they were answered.</summary>
public sealed class AnsweredRequests
{
    private readonly Dictionary<(Guid Member, string Key), IdempotencyRow> _rows;

    private AnsweredRequests(Dictionary<(Guid, string), IdempotencyRow> rows) => _rows = rows;

    /// <summary>Reads the answers kept under some keys.</summary>
    public static async Task<AnsweredRequests> ReadAsync(ComeAboardContext rows, IReadOnlyList<string> keys)
    {
        if (keys.Count == 0)
            return new AnsweredRequests([]);
        var found = await rows.IdempotencyKeys.AsNoTracking().Where(k => keys.Contains(k.Key)).ToListAsync();
        return new AnsweredRequests(found.ToDictionary(k => (k.MemberId, k.Key)));
    }

    /// <summary>The answer given before, a refusal when the key was used for something else, or null when it is new.</summary>
    public Outcome<InvitationView>? AnswerOf(Guid member, string? key, string digest)
    {
        if (key is null || !_rows.TryGetValue((member, key), out var known))
            return null;
        return known.RequestDigest == digest
            ? JsonSerializer.Deserialize(known.Answer, WireJson.Default.InvitationView)!
            : new Refusal(
                "idempotency.reused",
                "This Idempotency-Key was used for another request.",
                "Use a new key for every different request.",
                RefusalSort.Conflict
            );
    }

    /// <summary>Keeps an answer, within the change that made it; an answer kept already stays.</summary>
    public void Keep(WorkspaceWrite write, Guid member, string key, string digest, InvitationView view)
    {
        if (_rows.ContainsKey((member, key)))
            return;
        var row = new IdempotencyRow
        {
            WorkspaceId = write.Workspace.Id,
            MemberId = member,
            Key = key,
            RequestDigest = digest,
            Answer = JsonSerializer.Serialize(view, WireJson.Default.InvitationView),
            CreatedAt = write.Now,
        };
        _rows[(member, key)] = row;
        write.Insert(row);
    }
}
