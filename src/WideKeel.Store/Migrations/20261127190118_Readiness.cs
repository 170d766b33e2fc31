using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Readiness : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "assurance",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Published = table.Column<bool>(type: "INTEGER", nullable: false),
                    Words = table.Column<string>(type: "TEXT", nullable: false),
                    Frameworks = table.Column<string>(type: "TEXT", nullable: false),
                    ControlsShown = table.Column<bool>(type: "INTEGER", nullable: false),
                    PoliciesShown = table.Column<bool>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_assurance", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "control",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    Area = table.Column<string>(type: "TEXT", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Units = table.Column<string>(type: "TEXT", nullable: false),
                    Weight = table.Column<decimal>(type: "TEXT", nullable: false),
                    Effort = table.Column<decimal>(type: "TEXT", nullable: false),
                    NotApplicable = table.Column<string>(type: "TEXT", nullable: false),
                    AskedById = table.Column<long>(type: "INTEGER", nullable: true),
                    ApprovedBy = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_control", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "framework",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<string>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    AdoptedAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_framework", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "gauge",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Measure = table.Column<string>(type: "TEXT", nullable: false),
                    Target = table.Column<double>(type: "REAL", nullable: false),
                    Warning = table.Column<double>(type: "REAL", nullable: false),
                    Alarm = table.Column<double>(type: "REAL", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_gauge", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "register_entry",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Due = table.Column<int>(type: "INTEGER", nullable: true),
                    DoneOn = table.Column<int>(type: "INTEGER", nullable: true),
                    Likelihood = table.Column<int>(type: "INTEGER", nullable: false),
                    Impact = table.Column<int>(type: "INTEGER", nullable: false),
                    LikelihoodAfter = table.Column<int>(type: "INTEGER", nullable: false),
                    ImpactAfter = table.Column<int>(type: "INTEGER", nullable: false),
                    Mark = table.Column<string>(type: "TEXT", nullable: false),
                    Done = table.Column<int>(type: "INTEGER", nullable: false),
                    Of = table.Column<int>(type: "INTEGER", nullable: false),
                    Controls = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_register_entry", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "control_part",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ControlId = table.Column<long>(type: "INTEGER", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Weight = table.Column<decimal>(type: "TEXT", nullable: false),
                    Measure = table.Column<string>(type: "TEXT", nullable: false),
                    Expected = table.Column<double>(type: "REAL", nullable: false),
                    Period = table.Column<string>(type: "TEXT", nullable: false),
                    Recurrence = table.Column<string>(type: "TEXT", nullable: false),
                    First = table.Column<int>(type: "INTEGER", nullable: true),
                    Doer = table.Column<string>(type: "TEXT", nullable: false),
                    Deputy = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_control_part", x => x.Id);
                    table.ForeignKey(
                        name: "FK_control_part_control_ControlId",
                        column: x => x.ControlId,
                        principalTable: "control",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    FrameworkId = table.Column<long>(type: "INTEGER", nullable: false),
                    Auditor = table.Column<string>(type: "TEXT", nullable: false),
                    PeriodFrom = table.Column<int>(type: "INTEGER", nullable: false),
                    PeriodThrough = table.Column<int>(type: "INTEGER", nullable: false),
                    StartsOn = table.Column<int>(type: "INTEGER", nullable: false),
                    EndsOn = table.Column<int>(type: "INTEGER", nullable: false),
                    ClosedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_framework_FrameworkId",
                        column: x => x.FrameworkId,
                        principalTable: "framework",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "readiness_day",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    FrameworkId = table.Column<long>(type: "INTEGER", nullable: false),
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Readiness = table.Column<decimal>(type: "TEXT", nullable: false),
                    Moved = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_readiness_day", x => x.Id);
                    table.ForeignKey(
                        name: "FK_readiness_day_framework_FrameworkId",
                        column: x => x.FrameworkId,
                        principalTable: "framework",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "requirement",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    FrameworkId = table.Column<long>(type: "INTEGER", nullable: false),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Group = table.Column<string>(type: "TEXT", nullable: false),
                    Weight = table.Column<decimal>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_requirement", x => x.Id);
                    table.ForeignKey(
                        name: "FK_requirement_framework_FrameworkId",
                        column: x => x.FrameworkId,
                        principalTable: "framework",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "gauge_day",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    GaugeId = table.Column<long>(type: "INTEGER", nullable: false),
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Right = table.Column<int>(type: "INTEGER", nullable: false),
                    Of = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_gauge_day", x => x.Id);
                    table.ForeignKey(
                        name: "FK_gauge_day_gauge_GaugeId",
                        column: x => x.GaugeId,
                        principalTable: "gauge",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "gauge_exclusion",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    GaugeId = table.Column<long>(type: "INTEGER", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    EndsOn = table.Column<int>(type: "INTEGER", nullable: true),
                    By = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_gauge_exclusion", x => x.Id);
                    table.ForeignKey(
                        name: "FK_gauge_exclusion_gauge_GaugeId",
                        column: x => x.GaugeId,
                        principalTable: "gauge",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "part_proof",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PartId = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Passed = table.Column<bool>(type: "INTEGER", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Facts = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    FileName = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_part_proof", x => x.Id);
                    table.ForeignKey(
                        name: "FK_part_proof_control_part_PartId",
                        column: x => x.PartId,
                        principalTable: "control_part",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_finding",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AuditId = table.Column<long>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Severity = table.Column<string>(type: "TEXT", nullable: false),
                    Control = table.Column<string>(type: "TEXT", nullable: false),
                    Action = table.Column<string>(type: "TEXT", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Due = table.Column<int>(type: "INTEGER", nullable: true),
                    DoneOn = table.Column<int>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_finding", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_finding_audit_AuditId",
                        column: x => x.AuditId,
                        principalTable: "audit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_request",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AuditId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    What = table.Column<string>(type: "TEXT", nullable: false),
                    RequirementId = table.Column<long>(type: "INTEGER", nullable: true),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Due = table.Column<int>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Offered = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_request", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_request_audit_AuditId",
                        column: x => x.AuditId,
                        principalTable: "audit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_sample",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AuditId = table.Column<long>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Population = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Seed = table.Column<int>(type: "INTEGER", nullable: false),
                    Method = table.Column<string>(type: "TEXT", nullable: false),
                    Confidence = table.Column<double>(type: "REAL", nullable: false),
                    Tolerable = table.Column<double>(type: "REAL", nullable: false),
                    Expected = table.Column<double>(type: "REAL", nullable: false),
                    Picks = table.Column<string>(type: "TEXT", nullable: false),
                    Found = table.Column<int>(type: "INTEGER", nullable: true),
                    UpperLimit = table.Column<double>(type: "REAL", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_sample", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_sample_audit_AuditId",
                        column: x => x.AuditId,
                        principalTable: "audit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "control_mapping",
                columns: table => new
                {
                    ControlId = table.Column<long>(type: "INTEGER", nullable: false),
                    RequirementId = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_control_mapping", x => new { x.ControlId, x.RequirementId });
                    table.ForeignKey(
                        name: "FK_control_mapping_control_ControlId",
                        column: x => x.ControlId,
                        principalTable: "control",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_control_mapping_requirement_RequirementId",
                        column: x => x.RequirementId,
                        principalTable: "requirement",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_remark",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RequestId = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_remark", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_remark_audit_request_RequestId",
                        column: x => x.RequestId,
                        principalTable: "audit_request",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_audit_FrameworkId",
                table: "audit",
                column: "FrameworkId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_finding_AuditId",
                table: "audit_finding",
                column: "AuditId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_remark_RequestId",
                table: "audit_remark",
                column: "RequestId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_request_AuditId_Number",
                table: "audit_request",
                columns: new[] { "AuditId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_audit_sample_AuditId",
                table: "audit_sample",
                column: "AuditId");

            migrationBuilder.CreateIndex(
                name: "IX_control_Code",
                table: "control",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_control_mapping_RequirementId",
                table: "control_mapping",
                column: "RequirementId");

            migrationBuilder.CreateIndex(
                name: "IX_control_part_ControlId",
                table: "control_part",
                column: "ControlId");

            migrationBuilder.CreateIndex(
                name: "IX_framework_Code",
                table: "framework",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_gauge_Name",
                table: "gauge",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_gauge_day_GaugeId_Day",
                table: "gauge_day",
                columns: new[] { "GaugeId", "Day" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_gauge_exclusion_GaugeId",
                table: "gauge_exclusion",
                column: "GaugeId");

            migrationBuilder.CreateIndex(
                name: "IX_part_proof_Hash",
                table: "part_proof",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_part_proof_PartId_Day",
                table: "part_proof",
                columns: new[] { "PartId", "Day" });

            migrationBuilder.CreateIndex(
                name: "IX_readiness_day_FrameworkId_Day",
                table: "readiness_day",
                columns: new[] { "FrameworkId", "Day" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_register_entry_Kind",
                table: "register_entry",
                column: "Kind");

            migrationBuilder.CreateIndex(
                name: "IX_requirement_FrameworkId_Code",
                table: "requirement",
                columns: new[] { "FrameworkId", "Code" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "assurance");

            migrationBuilder.DropTable(
                name: "audit_finding");

            migrationBuilder.DropTable(
                name: "audit_remark");

            migrationBuilder.DropTable(
                name: "audit_sample");

            migrationBuilder.DropTable(
                name: "control_mapping");

            migrationBuilder.DropTable(
                name: "gauge_day");

            migrationBuilder.DropTable(
                name: "gauge_exclusion");

            migrationBuilder.DropTable(
                name: "part_proof");

            migrationBuilder.DropTable(
                name: "readiness_day");

            migrationBuilder.DropTable(
                name: "register_entry");

            migrationBuilder.DropTable(
                name: "audit_request");

            migrationBuilder.DropTable(
                name: "requirement");

            migrationBuilder.DropTable(
                name: "gauge");

            migrationBuilder.DropTable(
                name: "control_part");

            migrationBuilder.DropTable(
                name: "audit");

            migrationBuilder.DropTable(
                name: "control");

            migrationBuilder.DropTable(
                name: "framework");
        }
    }
}
