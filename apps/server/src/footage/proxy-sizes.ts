import type { ProxyLines } from '@idle-bend/core/proxy';
import { Injectable } from '@nestjs/common';
import { Events } from '../events/events.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootageBin } from './footage-bin.js';
import { factsOf, FootagePaths } from './footage-paths.js';
import { FootageRows } from './footage-rows.js';
import { withProxyOf } from './inspect.js';

/** How large the proxies of a project are. */
@Injectable()
export class ProxySizes {
  constructor(
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly rows: FootageRows,
    private readonly paths: FootagePaths,
    private readonly bin: FootageBin,
    private readonly analysis: FootageAnalysis,
  ) {}

  /** Proxies of another size go, and are made again; what was found in the pictures stays. Throws `NotFoundException`. */
  async set(projectId: string, lines: ProxyLines): Promise<void> {
    const project = await this.projects.row(projectId);
    await project.update({ proxyLines: lines });
    for (const { id } of await this.rows.allOf(projectId)) await this.resize(id, lines);
    this.events.tell(projectId, { kind: 'footage' });
  }

  private async resize(id: string, lines: ProxyLines): Promise<void> {
    const row = await FootageRow.unscoped().findByPk(id);
    // What is shown of a file that is not there stays as it is.
    if (!row || this.paths.stateOf(row) !== 'here') return;
    const before = row.facts;
    const facts = JSON.stringify(withProxyOf(factsOf(row), lines));
    if (facts === JSON.stringify(factsOf(row))) return;
    await this.bin.freeInTurn(id);
    await this.rows.inItsTurn(id, async () => {
      // What was replaced meanwhile was looked into again, and is of this size.
      await FootageRow.unscoped().update({ facts }, { where: { id, facts: before } });
      const now = await FootageRow.findByPk(id);
      if (now) this.analysis.begin(now);
    });
  }
}
