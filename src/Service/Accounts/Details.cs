using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;

namespace ComeAboard.Service.Accounts;

/// <summary>Details of members to be changed, read; what is null stays as it is.</summary>
public sealed class Details
{
    private readonly DetailsRequest _request;

    private Details(DetailsRequest request) => _request = request;

    /// <summary>Reads details; refuses with <c>details.missing</c>, <c>details.name-of-several</c> or <c>name.*</c>.</summary>
    public static Outcome<Details> Read(DetailsRequest? request, bool several)
    {
        if (request is null || request with { OrganisationAsWritten = false } == new DetailsRequest())
            return new Refusal(
                "details.missing",
                "Nothing to change is named.",
                "Name at least one detail.",
                Field: "details"
            );
        if (several && request.Name is not null)
            return new Refusal(
                "details.name-of-several",
                "Several people cannot get the same name.",
                "Change names one by one.",
                Field: "name"
            );
        Refusal? fault = null;
        var read = request with
        {
            Name = Line(request.Name, "name"),
            Organisation = Line(request.Organisation, "organisation"),
            Title = Line(request.Title, "title"),
            Department = Line(request.Department, "department"),
            Manager = Line(request.Manager, "manager"),
            Country = Line(request.Country, "country"),
            Note = Line(request.Note, "note"),
        };
        if (read.Name is "")
            fault ??= new Refusal("name.missing", "The name is empty.", "Give one.", Field: "name");
        return fault is null ? new Details(read) : fault;

        string? Line(string? text, string field)
        {
            if (text is null)
                return null;
            if (
                (field == "name" ? PlainText.ReadPersonName(text) : PlainText.ReadName(text)).Try(
                    out var line,
                    out var refusal
                )
            )
                return line;
            fault ??= refusal with { Field = field };
            return "";
        }
    }

    /// <summary>Puts them in; refuses where an organisation or host cannot be.</summary>
    public async Task<Refusal?> PutAsync(WorkspaceWrite write, MemberRow editor, MemberRow member)
    {
        var before = Words(member);
        if (_request.Organisation is { } organisation)
        {
            if (await PutOrganisationAsync(write, editor, member, organisation) is { } refusal)
                return refusal;
        }
        if (_request.Host is { } host)
        {
            if (await PutHostAsync(write, member, host) is { } refusal)
                return refusal;
        }
        if (_request.Leads is { } leads)
        {
            if (leads && member.OrganisationId is null)
                return new Refusal(
                    "lead.organisation",
                    $"{member.Name} belongs to no organisation the workspace knows.",
                    "Put them into one first.",
                    RefusalSort.Conflict,
                    "leads"
                );
            member.Leads = leads;
        }
        member.Name = _request.Name ?? member.Name;
        member.Title = _request.Title ?? member.Title;
        member.Department = _request.Department ?? member.Department;
        member.Manager = _request.Manager ?? member.Manager;
        member.Country = _request.Country ?? member.Country;
        member.Note = _request.Note ?? member.Note;
        member.WithSearchText();
        write.Record(
            "member.changed",
            member.Id,
            ("name", member.Name),
            ("before", before),
            ("after", Words(member))
        );
        return null;
    }

    private async Task<Refusal?> PutOrganisationAsync(
        WorkspaceWrite write,
        MemberRow editor,
        MemberRow member,
        string written
    )
    {
        var world = await write.WorldAsync();
        if (
            !OrganisationRules
                .Find(world, written, _request.OrganisationAsWritten)
                .Try(out var found, out var unknown)
        )
            return unknown;
        var known = found.Known;
        if (known is not null && known.Id != member.OrganisationId)
        {
            if (OrganisationRules.ForbidsKind(known, member.Kind) is { } kind)
                return kind;
            if (GivingRules.Forbids(world, editor.Id, known.Grants, write.Today) is { } beyond)
                return beyond;
            var there = await Organisations.HeadcountAsync(write.Rows, known.Id);
            if (OrganisationRules.ForbidsMore(known, there) is { } full)
                return full;
        }
        (member.OrganisationId, member.Organisation) = (known?.Id, found.Written);
        if (known is null)
            member.Leads = false;
        return null;
    }

    private static async Task<Refusal?> PutHostAsync(WorkspaceWrite write, MemberRow member, string written)
    {
        if (written.Length == 0)
        {
            if (WorkspaceRules.Of(write.Workspace).ForbidsHostless(member.Kind, false) is { } rule)
                return rule;
            (member.HostId, member.HostName) = (null, "");
            return null;
        }
        if (!(await People.ActiveAsync(write, written)).Try(out var host, out var refusal))
            return refusal with { Field = "host" };
        if (host.Kind != Kind.Staff)
            return new Refusal(
                "host.unknown",
                "The host is nobody of the staff here.",
                "Give the address of a member of the staff.",
                Field: "host"
            );
        (member.HostId, member.HostName) = (host.Id, host.Name);
        return null;
    }

    private static string Words(MemberRow member) =>
        string.Join(
            "; ",
            new[]
            {
                member.Name,
                member.Organisation,
                member.Title,
                member.Department,
                member.Manager,
                member.Country,
                member.Note,
                member.HostName.Length > 0 ? "host " + member.HostName : "",
                member.Leads ? "leads" : "",
            }.Where(text => text.Length > 0)
        );
}
